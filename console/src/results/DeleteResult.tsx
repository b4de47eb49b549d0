import { useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { Remove } from '../parts/Remove'
import { tellThrown } from '../trash/thrown'

type Props = { result: string; title: string; after?: () => void }

/** Deletes a result, once it was made clear how it comes back. */
export function DeleteResult({ result, title, after }: Props) {
  const client = useQueryClient()
  const remove = async () => {
    await answer(api.DELETE('/results/{result}', { params: { path: { result } } }))
    client.invalidateQueries({ queryKey: ['results'] })
    tellThrown({ kind: 'result', id: result, name: `${result} ${title}` })
    after?.()
  }
  return (
    <Remove
      name={result}
      says={`${title} goes to the trash, from where it can be brought back for 30 days.`}
      onRemove={remove}
    />
  )
}
