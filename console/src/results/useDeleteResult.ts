import { useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { tellThrown } from '../trash/undo'

/** What deleting a result means, and what does it. */
export function useDeleteResult(result: string, title: string) {
  const client = useQueryClient()
  return {
    name: result,
    says: `${title} goes to the trash, from where it can be brought back for 30 days.`,
    onRemove: async () => {
      await answer(api.DELETE('/results/{result}', { params: { path: { result } } }))
      client.invalidateQueries({ queryKey: ['results'] })
      tellThrown({ kind: 'result', id: result, name: `${result} ${title}` })
    },
  }
}
