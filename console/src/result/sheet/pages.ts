import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { useMemo, useRef } from 'react'
import { answer, api, type Column, type LineMark, type Sheet } from '../../api/client'
import { query, type Reading } from '../reading'

/** How many lines and columns are fetched at once. */
export const pageLines = 200
export const pageColumns = 60

function page(result: string, view: string, reading: Reading, number: number, columns: number) {
  return {
    queryKey: ['sheet', result, view, reading, number, columns],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}', {
          params: {
            path: { result, view },
            query: {
              ...query(reading),
              first: number * pageLines,
              count: pageLines,
              first_column: columns * pageColumns,
              column_count: pageColumns,
            },
          },
        }),
      ),
    staleTime: Infinity, // a sealed result does not change
    gcTime: 60_000,
  }
}

/** The first page of a view: its columns, totals and first lines. */
export function useSheet(result: string, view: string, reading: Reading, enabled = true) {
  return useQuery({ ...page(result, view, reading, 0, 0), placeholderData: keepPreviousData, enabled })
}

export type Span = { first: number; last: number }

/** What a line of a sheet has in the columns in sight; the same object while nothing of it changes. */
export type LineData = {
  mark: LineMark | undefined
  cells: (string | null | undefined)[]
  tones: string[]
  links: string[] | undefined
}

/** What is in sight of a sheet, as far as it has arrived. */
export type Sight = {
  column: (at: number) => Column | undefined
  total: (at: number) => Sheet['totals'][number] | undefined
  line: (line: number) => LineData
}

function numbers(span: Span, size: number, also: number[]) {
  const out = new Set(also.map(n => Math.floor(n / size)))
  for (let n = Math.floor(span.first / size); n <= Math.floor(Math.max(span.last - 1, 0) / size); n++)
    out.add(n)
  return [...out]
}

/** The lines and columns in sight, with some lines beside them. */
export function useSight(
  result: string,
  sheet: Sheet,
  reading: Reading,
  lines: Span,
  columns: number[],
  also: number[],
): Sight {
  const wanted: [number, number][] = []
  const across = numbers({ first: columns[0] ?? 0, last: (columns.at(-1) ?? 0) + 1 }, pageColumns, [0])
  for (const l of numbers(lines, pageLines, also)) for (const c of across) wanted.push([l, c])
  const view = sheet.kept?.id ?? sheet.view
  // Asking anew at every step of scrolling would cost more than drawing.
  const asked = wanted.join(' ')
  const queries = useMemo(
    // What is wanted is as text in asked.
    () => wanted.map(([l, c]) => page(result, view, reading, l, c)),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [result, view, reading, asked],
  )
  const pages = useQueries({ queries })
  const by = new Map<string, Sheet>([['0/0', sheet]])
  pages.forEach((p, i) => p.data && by.set(wanted[i].join('/'), p.data))
  const at = (line: number, column: number) =>
    by.get(`${Math.floor(line / pageLines)}/${Math.floor(column / pageColumns)}`)
  const head = (column: number) => {
    for (const [l] of wanted) {
      const p = at(l * pageLines, column)
      if (p) return p
    }
    return at(0, column)
  }
  // Lines that were put together stay the same objects, so that drawing them again costs nothing.
  const made = useRef(new Map<number, { of: (Sheet | undefined)[]; data: LineData }>())
  const key = columns.join()
  const madeFor = useRef(key)
  if (madeFor.current !== key || made.current.size > 2000) {
    made.current = new Map()
    madeFor.current = key
  }
  const line = (n: number): LineData => {
    const of = across.map(c => at(n, c * pageColumns))
    const before = made.current.get(n)
    if (before && before.of.every((p, i) => p === of[i])) return before.data
    const r = n % pageLines
    const some = of.find(p => p !== undefined)
    const data = {
      mark: some?.marks[r],
      cells: columns.map(c => at(n, c)?.cells[r]?.[c % pageColumns]),
      tones: columns.map(c => at(n, c)?.marks[r]?.tones?.[c % pageColumns] ?? ''),
      links: at(n, 0)?.links[r],
    }
    made.current.set(n, { of, data })
    return data
  }
  return {
    column: c => head(c)?.columns[c % pageColumns],
    total: c => head(c)?.totals[c % pageColumns],
    line,
  }
}
