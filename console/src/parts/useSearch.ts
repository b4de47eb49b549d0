import { useDebouncedValue } from '@mantine/hooks'
import { useEffect, useState } from 'react'
import { useSearchParams } from 'react-router'

/**
 * What is typed into a search, and what it settles to. The settled text stands
 * in the address; the typed one is kept here, so that no letter waits for it.
 */
export function useSearch(): { typed: string; settled: string; type: (text: string) => void } {
  const [params, setParams] = useSearchParams()
  const [typed, type] = useState(params.get('search') ?? '')
  const [settled] = useDebouncedValue(typed, 130)
  useEffect(() => {
    setParams(
      old => {
        const next = new URLSearchParams(old)
        next.delete('search')
        if (settled) next.set('search', settled)
        return next
      },
      { replace: true },
    )
    // The address follows the text, not the other way round.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [settled])
  return { typed, settled, type }
}
