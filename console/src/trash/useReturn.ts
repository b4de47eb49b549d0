import { useMutation, useQueryClient } from '@tanstack/react-query'
import { fromTrash, type Thrown } from './undo'

/** Takes a thing out of the trash; everything that is shown is read anew, since it may stand anywhere. */
export function useReturn(onReturned?: () => void) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: ({ kind, id }: Thrown) => fromTrash(kind, id)(),
    onSuccess: () => {
      void client.invalidateQueries()
      onReturned?.()
    },
  })
}
