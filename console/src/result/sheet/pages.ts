import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { answer, api, type Column, type LineMark, type Sheet } from '../../api/client'
import { query, type Reading } from '../reading'

/** How many lines and columns are fetched at once. */
export const pageLines = 200
export const pageColumns = 60

function page(result: string, view: string, reading: Reading, number: number, columns: number) {
  return {
    queryKey: ['sheet', result, view, reading, number, columns],
    queryFn: () =>
      answer(api.GET('/results/{result}/views/{view}', {
        params: { path: { result, view }, query: { ...query(reading), first: number * pageLines, count: pageLines, first_column: columns * pageColumns, column_count: pageColumns } },
      })),
    staleTime: Infinity, // a sealed result does not change
    gcTime: 60_000,
  }
}

/** The first page of a view: its columns, totals and first lines. */
export function useSheet(result: string, view: string, reading: Reading) {
  return useQuery({ ...page(result, view, reading, 0, 0), placeholderData: keepPreviousData })
}

export type Span = { first: number; last: number }

/** What is in sight of a sheet, as far as it has arrived. */
export type Sight = {
  column: (at: number) => Column | undefined
  total: (at: number) => Sheet['totals'][number] | undefined
  mark: (line: number) => LineMark | undefined
  cell: (line: number, column: number) => string | null | undefined
  tone: (line: number, column: number) => string
  links: (line: number) => string[] | undefined
}

function numbers(span: Span, size: number, also: number[]) {
  const out = new Set(also.map((n) => Math.floor(n / size)))
  for (let n = Math.floor(span.first / size); n <= Math.floor(Math.max(span.last - 1, 0) / size); n++) out.add(n)
  return [...out]
}

/** The lines and columns in sight, with some lines beside them. */
export function useSight(result: string, sheet: Sheet, reading: Reading, lines: Span, columns: Span, also: number[]): Sight {
  const wanted: [number, number][] = []
  for (const l of numbers(lines, pageLines, also)) for (const c of numbers(columns, pageColumns, [0])) wanted.push([l, c])
  const pages = useQueries({ queries: wanted.map(([l, c]) => page(result, sheet.kept?.id ?? sheet.view, reading, l, c)) })
  const by = new Map<string, Sheet>([['0/0', sheet]])
  pages.forEach((p, i) => p.data && by.set(wanted[i].join('/'), p.data))
  const at = (line: number, column: number) => by.get(`${Math.floor(line / pageLines)}/${Math.floor(column / pageColumns)}`)
  const any = (line: number) => at(line, columns.first) ?? at(line, 0)
  const head = (column: number) => {
    for (const [l] of wanted) {
      const p = at(l * pageLines, column)
      if (p) return p
    }
    return at(0, column)
  }
  return {
    column: (c) => head(c)?.columns[c % pageColumns],
    total: (c) => head(c)?.totals[c % pageColumns],
    mark: (l) => any(l)?.marks[l % pageLines],
    cell: (l, c) => at(l, c)?.cells[l % pageLines]?.[c % pageColumns],
    tone: (l, c) => at(l, c)?.marks[l % pageLines]?.tones?.[c % pageColumns] ?? '',
    links: (l) => at(l, 0)?.links[l % pageLines],
  }
}
