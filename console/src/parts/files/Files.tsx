import { FileButton, Button, Group } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api, type Schemas } from '../../api/client'
import { count, moment } from '../said'
import { bytesOf } from './bytesOf'
import classes from './Files.module.css'
import { number } from '../../parts/form'

/** The tables of a source of files: what they have now, a way to bring another, and the earlier ones. */
export function Files({ source }: { source: string }) {
  const tables = useQuery({
    queryKey: ['files', source],
    queryFn: () => answer(api.GET('/sources/{source}/files', { params: { path: { source } } })),
  })
  return (
    <section aria-label="Files">
      <h2 className={classes.heading}>Files</h2>
      {tables.error && <p className="told">{tables.error.message}</p>}
      {tables.data?.map(t => (
        <Table key={t.table} source={source} table={t} />
      ))}
    </section>
  )
}

type TableProps = { source: string; table: Schemas['FileTable'] }

function Table({ source, table }: TableProps) {
  const client = useQueryClient()
  const path = { source, table: table.table }
  const take = useMutation({
    mutationFn: (file: File) =>
      answer(
        api.POST('/sources/{source}/files/{table}', {
          params: { path, query: { name: file.name } },
          ...bytesOf(file),
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  })
  const use = useMutation({
    mutationFn: (number: number) =>
      answer(api.PUT('/sources/{source}/files/{table}/{number}', { params: { path: { ...path, number } } })),
    onSuccess: () => client.invalidateQueries(),
  })
  const look = useMutation({
    mutationFn: () => answer(api.POST('/sources/{source}/files/{table}/look', { params: { path } })),
    onSuccess: () => client.invalidateQueries(),
  })
  const error = take.error ?? use.error ?? look.error
  return (
    <div data-file-table={table.table}>
      <Group gap="xs" justify="space-between">
        <strong>{table.title || table.table}</strong>
        <FileButton
          onChange={f => f && take.mutate(f)}
          accept=".csv,.txt,.xlsx,.parquet,.arrow,.feather,.json,.jsonl,.ndjson"
        >
          {props => (
            <Button {...props} size="compact-xs" variant="light" loading={take.isPending}>
              Bring a file
            </Button>
          )}
        </FileButton>
      </Group>
      {table.versions.length === 0 && (
        <p className="dim">No file yet; it needs the headings {table.columns.join(', ')}.</p>
      )}
      {table.from && (
        <p className="dim" data-from>
          Comes by itself from {table.from}
          {table.looked && `; looked at ${moment(table.looked.at)}`}.{' '}
          <button type="button" className="act" disabled={look.isPending} onClick={() => look.mutate()}>
            Look now
          </button>
        </p>
      )}
      {table.looked?.fault && <p className="told">{table.looked.fault}</p>}
      {error && (
        <p className="told" role="alert">
          {error.message}
        </p>
      )}
      {take.data && <Taken taken={take.data} />}
      <ul className={classes.list}>
        {table.versions.map(v => (
          <li key={v.number} data-in-use={v.inUse || undefined}>
            {v.inUse ? <strong>{v.name}</strong> : v.name}{' '}
            <span className="dim">
              {count(v.rows, 'row', 'rows')}
              {v.leftOut ? `, ${count(v.leftOut, 'line', 'lines')} left out` : ''}; {moment(v.at)}{' '}
              {v.person ? `by ${v.person}` : 'by itself'}
            </span>{' '}
            {!v.inUse && (
              <button
                type="button"
                className="act"
                aria-label={`Use ${v.name}, brought ${moment(v.at)}`}
                disabled={use.isPending}
                onClick={() => use.mutate(v.number)}
              >
                Use it again
              </button>
            )}
          </li>
        ))}
      </ul>
    </div>
  )
}

/** How a file was read: what does not fit, line by line. */
function Taken({ taken }: { taken: Schemas['TakenFile'] }) {
  return (
    <div role="status" data-taken={taken.refused ? 'refused' : 'taken'}>
      <p className={taken.refused ? 'told' : undefined}>
        {taken.refused
          ? `Nothing was taken: ${count(taken.leftOut, 'line does', 'lines do')} not fit. Mend the file, or let the table say faults: skip.`
          : `${count(taken.rows, 'row is', 'rows are')} taken.`}
      </p>
      <ul className={classes.list}>
        {taken.faults.map((f, i) => (
          <li key={i} className={classes.fault}>
            <strong>{f.place}</strong>, {f.column}: {f.says}
          </li>
        ))}
        {taken.more > 0 && <li className={classes.fault}>and {number(taken.more)} more like these</li>}
      </ul>
    </div>
  )
}
