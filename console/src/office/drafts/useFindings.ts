import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Findings } from '../../api/client'

/** How long after the last letter a text is looked at. */
const pause = 200

const find = (text: string, source: boolean) =>
  answer(
    api.POST('/definitions/findings', {
      params: { query: { source } },
      body: text,
      bodySerializer: (t: string) => t,
      headers: { 'Content-Type': 'application/yaml' },
    }),
  )

/**
 * What is found of a text: as one types without asking the source, and all of it on demand, which counts
 * until the text is another.
 */
export function useFindings(text: string) {
  const [settled] = useDebouncedValue(text, pause)
  const typing = useQuery({
    queryKey: ['findings', settled],
    queryFn: () => find(settled, false),
    placeholderData: keepPreviousData,
    enabled: settled !== '',
    gcTime: 10_000,
  })
  const [whole, setWhole] = useState<{ text: string; findings: Findings }>()
  const check = useMutation({
    mutationFn: async () => ({ text, findings: await find(text, true) }),
    onSuccess: setWhole,
  })
  const counts = whole?.text === text
  return {
    findings: counts ? whole.findings : typing.data,
    /** Whether the source was asked about this text. */
    whole: counts,
    checking: check.isPending,
    error: check.error,
    check: () => check.mutate(),
  }
}

export type Finding = ReturnType<typeof useFindings>
