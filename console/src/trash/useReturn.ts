import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import type { Thrown } from './undo'

/** Takes a thing out of the trash; everything that is shown is read anew, since it may stand anywhere. */
export function useReturn(onReturned?: () => void) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ kind, id }: Thrown) =>
      answer(api.POST('/trash/{kind}/{id}', { params: { path: { kind, id } } })),
    onSuccess: () => {
      void client.invalidateQueries()
      onReturned?.()
    },
  })
}
