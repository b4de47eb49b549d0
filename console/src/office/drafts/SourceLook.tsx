import { TextInput } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type SourceTable } from '../../api/client'
import classes from './DraftPage.module.css'
import { useTables } from './NewReport'
import { number } from '../../parts/form'

type Props = { source: string; onInsert: (text: string) => void }

/** The tables of a source with their columns and first rows; a column's name goes into the text. */
export function SourceLook({ source, onInsert }: Props) {
  const [search, setSearch] = useState('')
  const tables = useTables(source)
  const wanted = search.toLowerCase()
  const found = tables.data?.filter(
    t => t.name.toLowerCase().includes(wanted) || t.columns.some(c => c.name.toLowerCase().includes(wanted)),
  )
  if (!source) return <p>The definition names no source yet.</p>
  if (tables.error) return <p className={classes.wrong}>{tables.error.message}</p>
  return (
    <div>
      <TextInput
        aria-label="Find a table or a column"
        placeholder="Find a table or a column"
        value={search}
        onChange={e => setSearch(e.currentTarget.value)}
        mb="xs"
      />
      {found?.map(t => (
        <Table key={t.name} source={source} table={t} onInsert={onInsert} />
      ))}
      {found?.length === 0 && <p>No table has that in its name or a column’s.</p>}
    </div>
  )
}

function Table({
  source,
  table,
  onInsert,
}: {
  source: string
  table: SourceTable
  onInsert: (text: string) => void
}) {
  const [open, setOpen] = useState(false)
  const size = table.view ? 'view' : table.rows === undefined ? '' : `${number(table.rows)} rows`
  return (
    <details className={classes.table} onToggle={e => setOpen(e.currentTarget.open)}>
      <summary>
        <b>{table.name}</b> <small>{size}</small>
      </summary>
      <ul>
        {table.columns.map(c => (
          <li key={c.name}>
            <button type="button" onClick={() => onInsert(`${table.name}.${c.name}`)}>
              {c.name}
            </button>{' '}
            <small>
              {[
                c.type.toLowerCase(),
                c.key && 'key',
                c.references && `key of ${c.references}`,
                c.list && `list ${c.list}`,
              ]
                .filter(Boolean)
                .join(', ')}
            </small>
          </li>
        ))}
      </ul>
      <p>
        <small>
          {table.usedBy.length > 0 ? `Read by ${table.usedBy.join(', ')}.` : 'No report reads it.'}
        </small>
      </p>
      {open && <Sample source={source} table={table.name} />}
    </details>
  )
}

function Sample({ source, table }: { source: string; table: string }) {
  const rows = useQuery({
    queryKey: ['sample', source, table],
    queryFn: () =>
      answer(
        api.GET('/sources/{source}/tables/{table}/rows', {
          params: { path: { source, table }, query: { limit: 5 } },
        }),
      ),
    staleTime: 60_000,
  })
  if (rows.error) return <p className={classes.wrong}>{rows.error.message}</p>
  if (!rows.data) return null
  return (
    <div className={classes.rows} tabIndex={0} role="region" aria-label={`First rows of ${table}`}>
      <table>
        <thead>
          <tr>
            {rows.data.columns.map(c => (
              <th key={c} scope="col">
                {c}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.data.rows.map((cells, i) => (
            <tr key={i}>
              {cells.map((cell, j) => (
                <td key={j}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
