import { useSearchParams } from 'react-router'
import type { Schemas } from '../api/client'

/** The parts of how a reader has a view laid out, as the contract's query names them. */
const parts = [
  'column',
  'add',
  'group',
  'sort',
  'filter',
  'down',
  'across',
  'cell',
  'show',
  'drawn',
  'names',
  'zeros',
  'open',
  'fold',
  'total',
  'most',
  'entries',
] as const
export type Part = (typeof parts)[number]

/**
 * How a reader has a view laid out. Parts that are empty stay as the view has them; single words are
 * lists of one.
 */
export type Reading = Record<Part, string[]>
export type Change = (to: Partial<Reading>) => void

/** The reading that an address holds of a view, each part under the view's id. */
export function readingIn(params: URLSearchParams, view: string): Reading {
  return Object.fromEntries(parts.map(p => [p, params.getAll(`${view}.${p}`)])) as Reading
}

/** Writes a reading into an address. */
export function write(params: URLSearchParams, view: string, reading: Partial<Reading>) {
  for (const p of parts) {
    const values = reading[p]
    if (!values) continue
    params.delete(`${view}.${p}`)
    values.forEach(v => params.append(`${view}.${p}`, v))
  }
  return params
}

/** The reading of a view, and a way to change it that the browser's back undoes. */
export function useReading(view: string): [Reading, Change] {
  const [params, setParams] = useSearchParams()
  const change = (to: Partial<Reading>) => setParams(old => write(new URLSearchParams(old), view, to))
  return [readingIn(params, view), change]
}

/** Everything as the view was made. */
export const asMade = Object.fromEntries(parts.map(p => [p, []])) as unknown as Reading

export function isChanged(reading: Reading) {
  return parts.some(p => p !== 'fold' && reading[p].length > 0)
}

/** The part of a request that asks the service for a reading. */
export function query(reading: Reading) {
  const list = (p: Part) => (reading[p].length ? reading[p] : undefined)
  const number = (p: Part) => (reading[p].length ? Number(reading[p][0]) : undefined)
  return {
    column: list('column'),
    add: list('add'),
    group: list('group'),
    sort: list('sort'),
    filter: list('filter'),
    down: list('down'),
    across: list('across'),
    cell: list('cell'),
    fold: list('fold'),
    total: list('total'),
    show: reading.show[0],
    drawn: reading.drawn[0],
    names: reading.names[0],
    zeros: reading.zeros[0],
    open: number('open'),
    most: number('most'),
    entries: reading.entries[0],
  }
}

/** A reading as a kept view has it. */
export function changesOf(reading: Reading) {
  const q = query(reading)
  return {
    columns: q.column,
    add: q.add,
    group: q.group,
    sort: q.sort,
    filters: q.filter,
    down: q.down,
    across: q.across,
    cells: q.cell,
    totals: q.total,
    show: q.show,
    drawn: q.drawn,
    names: q.names,
    zeros: q.zeros,
    open: q.open,
    most: q.most,
  }
}

/** The reading that a kept view or a tile has. */
export function readingOf(c: Schemas['Changes'] | undefined): Reading {
  const list = (one: string | number | undefined) => (one === undefined ? [] : [String(one)])
  return {
    ...asMade,
    column: c?.columns ?? [],
    add: c?.add ?? [],
    group: c?.group ?? [],
    sort: c?.sort ?? [],
    filter: c?.filters ?? [],
    down: c?.down ?? [],
    across: c?.across ?? [],
    cell: c?.cells ?? [],
    total: c?.totals ?? [],
    show: list(c?.show),
    drawn: list(c?.drawn),
    names: list(c?.names),
    zeros: list(c?.zeros),
    open: list(c?.open),
    most: list(c?.most),
  }
}

/** A reading as the text of a query. */
export function searchOf(reading: Reading) {
  const params = new URLSearchParams()
  for (const p of parts) reading[p].forEach(v => params.append(p, v))
  return params.toString()
}
