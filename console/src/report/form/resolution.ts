import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answer, api, type Resolution, type Values } from '../../api/client'

/** What values come to today, asked anew shortly after each change. */
export function useResolution(
  report: string,
  values: Values,
  ready: boolean,
  criteria?: string,
): Resolution | undefined {
  const [settled] = useDebouncedValue(JSON.stringify(values), 150)
  const resolution = useQuery({
    queryKey: ['resolution', report, criteria, settled],
    queryFn: () =>
      answer(
        api.POST('/reports/{report}/resolve', {
          params: { path: { report } },
          body: { values: JSON.parse(settled) as Values, criteria },
        }),
      ),
    placeholderData: keepPreviousData,
    enabled: ready && (settled !== '{}' || Object.keys(values).length === 0),
  })
  return resolution.data
}
