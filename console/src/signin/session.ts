import { useQuery } from '@tanstack/react-query'
import { answer, api, Refusal, type Who } from '../api/client'

/** Who is signed in; undefined while that is not known, null for nobody. */
export function useSession(): { who: Who | null | undefined; error: Error | null } {
  const session = useQuery({
    queryKey: ['session'],
    queryFn: async () => {
      try {
        return await answer(api.GET('/session'))
      } catch (e) {
        if (e instanceof Refusal && e.problem.type === 'signed-out') return null
        throw e
      }
    },
    staleTime: Infinity,
  })
  return { who: session.data, error: session.error }
}

/** Whether the person may change what somebody asked for: their own, or as a librarian anybody's. */
export function useMayChange(): (askedBy: string) => boolean {
  const { who } = useSession()
  return askedBy =>
    Boolean(who?.rights.includes('run') && (who.name === askedBy || who.rights.includes('catalog')))
}

/** Whether the person has a right: run, write, catalog or people. */
export function useRight(right: Who['rights'][number]): boolean {
  return useSession().who?.rights.includes(right) ?? false
}
