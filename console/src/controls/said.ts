import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { answer, api, type ControlChange } from '../api/client'

/** What a run control comes to, in words, as the service tells it. */
export function useSaid(change: ControlChange, paused = false) {
  const [asked] = useDebouncedValue(change, 250)
  const said = useQuery({
    queryKey: ['control-said', asked, paused],
    queryFn: () => answer(api.POST('/controls/said', { params: { query: { paused } }, body: asked })),
    placeholderData: keepPreviousData,
    retry: false,
  })
  return said.data
}
