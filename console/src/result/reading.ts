import { useSearchParams } from 'react-router'

/** How a reader has a view laid out. The address holds it, each part under the view's id. */
export type Reading = { column: string[]; sort: string[]; filter: string[] }

const parts = ['column', 'sort', 'filter'] as const

/** The reading of a view, and a way to change it that the browser's back undoes. */
export function useReading(view: string): [Reading, (change: Partial<Reading>) => void] {
  const [params, setParams] = useSearchParams()
  const reading = Object.fromEntries(parts.map((p) => [p, params.getAll(`${view}.${p}`)])) as Reading
  const change = (to: Partial<Reading>) =>
    setParams((old) => {
      const next = new URLSearchParams(old)
      for (const p of parts) {
        const values = to[p]
        if (!values) continue
        next.delete(`${view}.${p}`)
        values.forEach((v) => next.append(`${view}.${p}`, v))
      }
      return next
    })
  return [reading, change]
}

/** The part of an address that asks the service for a reading. */
export function query(reading: Reading) {
  return {
    column: reading.column.length ? reading.column : undefined,
    sort: reading.sort.length ? reading.sort : undefined,
    filter: reading.filter.length ? reading.filter : undefined,
  }
}
