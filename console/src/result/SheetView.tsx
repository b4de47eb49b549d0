import { Button, Group } from '@mantine/core'
import { Link } from 'react-router'
import { Refusal, type Result } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { count } from '../parts/said'
import { ColumnChooser } from './ColumnChooser'
import { Filters } from './Filters'
import { Grid } from './Grid'
import { useSheet } from './pages'
import { query, useReading } from './reading'
import classes from './SheetView.module.css'

type Props = { result: string; view: Result['page'][number]; alone: boolean }

/** One view of a result with what a reader can do to it: filter, choose columns, take away. */
export function SheetView({ result, view, alone }: Props) {
  const [reading, change] = useReading(view.id)
  const sheet = useSheet(result, view.id, reading)
  if (sheet.error) {
    const undo = <Button variant="light" onClick={() => change({ column: [], sort: [], filter: [] })}>Show the view as it was made</Button>
    return sheet.error instanceof Refusal ? <State title={sheet.error.problem.title} said={sheet.error.message} next={undo} /> : <Failure error={sheet.error} />
  }
  if (!sheet.data) return <State title="Reading the rows" />
  const s = sheet.data
  return (
    <section className={alone ? classes.alone : classes.block} aria-label={s.title}>
      <header className={classes.tools}>
        <h2 className={classes.title}>{s.title}</h2>
        <span className="dim figure" data-rows={s.rows}>{s.rows === s.of ? count(s.rows, 'row', 'rows') : `${count(s.rows, 'row', 'rows')} of ${s.of.toLocaleString('en-GB')}`}</span>
        <Filters sheet={s} filters={reading.filter} onChange={(filter) => change({ filter })} />
        <Group gap={6} ml="auto">
          <ColumnChooser sheet={s} onChange={(column) => change({ column })} />
          {(['csv', 'xlsx'] as const).map((format) => (
            <Button key={format} size="compact-sm" variant="default" component="a" href={fileAddress(result, view.id, format, query(reading))} download>{format.toUpperCase()}</Button>
          ))}
        </Group>
      </header>
      {s.rows === 0 ? (
        s.of === 0
          ? <State title="No rows" said="Nothing met the values of this run." />
          : <State title="No row meets the filters" said={`${count(s.of, 'row is', 'rows are')} left out.`} next={<Button variant="light" onClick={() => change({ filter: [] })}>Remove the filters</Button>} />
      ) : (
        <Grid result={result} sheet={s} reading={reading} tall={alone} onSort={(sort) => change({ sort })} />
      )}
      {s.rows === 0 && s.of === 0 && <Link to="/results">All results</Link>}
    </section>
  )
}

function fileAddress(result: string, view: string, format: string, reading: ReturnType<typeof query>) {
  const params = new URLSearchParams({ format })
  for (const [name, values] of Object.entries(reading)) values?.forEach((v) => params.append(name, v))
  return `/api/results/${result}/views/${view}/file?${params}`
}
