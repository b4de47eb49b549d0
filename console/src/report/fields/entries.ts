import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'

/** The entries that a parameter offers, searched on the server. Given are the values that narrow them. */
export function useEntries(
  report: string,
  parameter: string,
  search: string,
  limit: number,
  given: string[],
  enabled = true,
) {
  return useQuery({
    queryKey: ['entries', report, parameter, search, limit, ...given],
    queryFn: () =>
      answer(
        api.GET('/reports/{report}/parameters/{parameter}/entries', {
          params: { path: { report, parameter }, query: { search, limit, given } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled,
  })
}

/** The entries with certain codes, to name what is chosen. */
export function useChosen(report: string, parameter: string, codes: string[]) {
  return useQuery({
    queryKey: ['chosen', report, parameter, ...codes],
    queryFn: () =>
      answer(
        api.GET('/reports/{report}/parameters/{parameter}/entries', {
          params: { path: { report, parameter }, query: { code: codes, limit: 1000 } },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: codes.length > 0,
  })
}
