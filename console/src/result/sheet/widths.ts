import { useCallback, useState } from 'react'

/** Widths that a reader gave to columns, in characters, by the column's id. */
export type Widths = Record<string, number>

export const least = 4
const most = 120

/**
 * The widths of a view's columns that the reader set, which this browser keeps. Undefined gives a column
 * back the width that its content has.
 */
export function useWidths(report: string, dataset: string): [Widths, SetWidth] {
  const key = `widths/${report}/${dataset}`
  const [widths, setWidths] = useState<Widths>(() => kept(key))
  const set = useCallback(
    (column: string, width: number | undefined) =>
      setWidths(old => {
        const { [column]: _, ...next } = old
        if (width !== undefined) next[column] = Math.min(Math.max(Math.round(width * 10) / 10, least), most)
        localStorage.setItem(key, JSON.stringify(next))
        return next
      }),
    [key],
  )
  return [widths, set]
}

export type SetWidth = (column: string, width: number | undefined) => void

function kept(key: string): Widths {
  try {
    return JSON.parse(localStorage.getItem(key) ?? '{}') as Widths
  } catch {
    return {} // what somebody else wrote there
  }
}
