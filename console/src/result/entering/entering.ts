import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { createContext, useEffect, useRef, useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'

type Cell = Schemas['EntryCell']
export type EntryOf = Schemas['EntryOf']
export type EntryColumn = Schemas['EntryColumn']

/** The cell that is being filled in. */
export type Editing = { row: number; column: string }

/** What people type in beside the rows of a sheet, and how. */
export type Entering = {
  columns: Map<string, EntryColumn>
  entries: EntryOf[]
  /** The last entry of a cell, also where its value was taken away. */
  at: (row: number, column: string) => EntryOf | undefined
  editing: Editing | undefined
  edit: (cell: Editing | undefined) => void
  /** Fills in cells together; those of one row and column each. */
  put: (cells: Cell[], way: 'typed' | 'pasted') => void
  putFile: (file: File) => void
  undo: () => void
  /** Says why nothing was filled in. */
  refuse: (why: string) => void
  busy: boolean
  error: string | undefined
}

export const EnteringContext = createContext<Entering | undefined>(undefined)

/** How often one looks whether others typed something in. */
const every = 3000

/**
 * What people typed in beside the rows of a dataset, kept up with what others type. Sheets that were
 * read are read anew when it changed.
 */
export function useEntering(result: string, dataset: string, fills: boolean): Entering | undefined {
  const client = useQueryClient()
  const [editing, edit] = useState<Editing>()
  const [refused, refuse] = useState<string>()
  const path = { result }
  const query = { dataset }
  const entries = useQuery({
    queryKey: ['entries', result, dataset],
    queryFn: () => answer(api.GET('/results/{result}/entries', { params: { path, query } })),
    enabled: fills,
    refetchInterval: every,
  })
  const last = Math.max(0, ...(entries.data?.entries ?? []).map(e => e.number))
  const seen = useRef<number>(undefined)
  useEffect(() => {
    if (entries.data === undefined) return
    const before = seen.current
    seen.current = last
    if (before !== undefined && before !== last)
      void client.invalidateQueries({
        predicate: q => ['sheet', 'outline', 'figure', 'row'].includes(String(q.queryKey[0])),
      })
  }, [client, entries.data, last])
  const done = () => client.invalidateQueries({ queryKey: ['entries', result, dataset] })
  const put = useMutation({
    mutationFn: (body: Schemas['EntryChange']) =>
      answer(api.POST('/results/{result}/entries', { params: { path, query }, body })),
    onSettled: done,
  })
  const putFile = useMutation({
    mutationFn: (file: File) =>
      answer(
        api.POST('/results/{result}/entries/file', {
          params: { path, query: { dataset, says: file.name } },
          body: file as unknown as string,
          bodySerializer: b => b,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    onSettled: done,
  })
  const undo = useMutation({
    mutationFn: () => answer(api.POST('/results/{result}/entries/undo', { params: { path, query } })),
    onSettled: done,
  })
  if (!fills || !entries.data) return undefined
  const all = entries.data.entries
  const by = new Map(all.map(e => [`${e.row} ${e.column}`, e]))
  const acts = [put, putFile, undo]
  const fresh = (of: { reset: () => void }) => {
    refuse(undefined)
    acts.forEach(a => a !== of && a.reset())
  }
  return {
    columns: new Map(entries.data.columns.map(c => [c.id, c])),
    entries: all,
    at: (row, column) => by.get(`${row} ${column}`),
    editing,
    edit,
    put: (cells, way) => {
      fresh(put)
      put.mutate({
        way,
        cells: cells.map(c => ({ ...c, seen: by.get(`${c.row} ${c.column}`)?.number ?? 0 })),
      })
    },
    putFile: file => (fresh(putFile), putFile.mutate(file)),
    undo: () => (fresh(undo), undo.mutate()),
    refuse,
    busy: acts.some(a => a.isPending),
    error: refused ?? (put.error ?? putFile.error ?? undo.error)?.message,
  }
}

/** The rows and columns of what was copied from a spreadsheet. */
export function pasted(text: string) {
  return text
    .replace(/\r?\n$/, '')
    .split(/\r?\n/)
    .map(line => line.split('\t'))
}
