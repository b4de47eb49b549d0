import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { query } from '../reading'
import { readingOf, type Step } from './trail'

/** What a figure opens into: the filters of its rows, and that both come to the same. */
export function useOpening(result: string, step: Step | undefined) {
  return useQuery({
    queryKey: ['figure', result, step],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/figure', {
          params: {
            path: { result, view: step!.view },
            query: {
              ...query(readingOf(step!)),
              path: step!.path,
              across_path: step!.across,
              of: step!.of || undefined,
              row: step!.row,
            },
          },
        }),
      ),
    staleTime: Infinity,
    enabled: step !== undefined,
  })
}
