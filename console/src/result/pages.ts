import { keepPreviousData, useQueries, useQuery } from '@tanstack/react-query'
import { answer, api, type Sheet } from '../api/client'
import { query, type Reading } from './reading'

/** How many rows are fetched at once. */
export const pageRows = 200

function page(result: string, view: string, reading: Reading, number: number) {
  return {
    queryKey: ['sheet', result, view, reading, number],
    queryFn: () =>
      answer(api.GET('/results/{result}/views/{view}', { params: { path: { result, view }, query: { ...query(reading), first: number * pageRows, count: pageRows } } })),
    staleTime: Infinity, // a sealed result does not change
    gcTime: 60_000,
  }
}

/** The first page of a view: its columns, totals and first rows. */
export function useSheet(result: string, view: string, reading: Reading) {
  return useQuery({ ...page(result, view, reading, 0), placeholderData: keepPreviousData })
}

/** The rows from first up to last, as far as they have arrived. */
export function useRows(result: string, view: string, reading: Reading, first: number, last: number) {
  const numbers: number[] = []
  for (let n = Math.floor(first / pageRows); n <= Math.floor(Math.max(last - 1, 0) / pageRows); n++) numbers.push(n)
  const pages = useQueries({ queries: numbers.map((n) => page(result, view, reading, n)) })
  const byNumber = new Map<number, Sheet>()
  pages.forEach((p, i) => p.data && byNumber.set(numbers[i], p.data))
  return (row: number) => {
    const from = byNumber.get(Math.floor(row / pageRows))
    const at = row % pageRows
    return from && at < from.cells.length ? { cells: from.cells[at], links: from.links[at] } : undefined
  }
}
