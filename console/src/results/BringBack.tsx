import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'

/** Takes a result out of the trash. */
export function BringBack({ result }: { result: string }) {
  const client = useQueryClient()
  const back = useMutation({
    mutationFn: () =>
      answer(api.POST('/trash/{kind}/{id}', { params: { path: { kind: 'result', id: result } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['results'] }),
  })
  return (
    <button type="button" className="act" aria-label={`Bring ${result} back`} onClick={() => back.mutate()}>
      {back.error ? back.error.message : 'Bring back'}
    </button>
  )
}
