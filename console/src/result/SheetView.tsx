import { Button, Group } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useRef, type ReactNode } from 'react'
import { useSearchParams } from 'react-router'
import { answer, api, Refusal, type Result, type Sheet } from '../api/client'
import { Failure } from '../parts/Failure'
import { count } from '../parts/said'
import { State } from '../parts/State'
import { useRight } from '../signin/session'
import { AddColumn } from './change/AddColumn'
import { ColumnChooser } from './change/ColumnChooser'
import { Filters } from './change/Filters'
import { FindBox } from './change/FindBox'
import { Grouping } from './change/Grouping'
import { KeepView } from './change/KeepView'
import { Told } from './change/Told'
import { Zoom } from './change/Zoom'
import { ChartView } from './chart/ChartView'
import { EnteringContext, useEntering } from './entering/entering'
import { EntryBar } from './entering/EntryBar'
import type { OnFigure } from './sheet/Line'
import { FormView } from './sheet/FormView'
import { Grid, type GridHandle } from './sheet/Grid'
import { Outline } from './sheet/Outline'
import { useSheet } from './sheet/pages'
import { Timeline } from './sheet/Timeline'
import { asMade, query, useReading } from './reading'
import { SendDialog } from './take/SendDialog'
import { TakeAway } from './take/TakeAway'
import classes from './SheetView.module.css'
import { number } from '../parts/form'

type Props = {
  result: Result
  view: string
  /** The tabs of the views, where it stands alone: among others it has its own title. */
  tabs?: ReactNode
  hand: number | undefined
  onHand: (line: number, row: number | undefined, view: string) => void
  onRow: (row: number, view: string) => void
  onFigure: (view: string) => OnFigure
}

/** Whether a table is a single row, which is read as a record: its labels beside its values. */
function isRecord(s: Sheet) {
  const whole = s.columns.length === s.columns_of && !s.columns.some(c => c.entry)
  return s.show === 'table' && s.of === 1 && s.levels.length === 0 && whole
}

/** One view of a result with what a reader can do to it. */
export function SheetView({ result, view, tabs, hand, onHand, onRow, onFigure }: Props) {
  const alone = tabs !== undefined
  const [reading, change] = useReading(view)
  const [params, setParams] = useSearchParams()
  const grid = useRef<GridHandle>(null)
  const mayTake = useRight('take-away')
  const maySend = useRight('run') && mayTake
  const sheet = useSheet(result.id, view, reading)
  const grouped = (sheet.data?.levels.length ?? 0) > 0 && sheet.data?.chart === undefined
  const outline = useQuery({
    queryKey: ['outline', result.id, view, reading],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/outline', {
          params: { path: { result: result.id, view }, query: query(reading) },
        }),
      ),
    staleTime: Infinity,
    enabled: grouped,
    placeholderData: old => old,
  })
  const fills = sheet.data?.columns.some(c => c.entry) ?? false
  const entering = useEntering(result.id, sheet.data?.dataset ?? '', fills)
  if (sheet.error) {
    const undo = (
      <Button variant="light" onClick={() => change(asMade)}>
        Show the view as it was made
      </Button>
    )
    return sheet.error instanceof Refusal ? (
      <State title={sheet.error.problem.title} said={sheet.error.message} next={undo} />
    ) : (
      <Failure error={sheet.error} />
    )
  }
  if (!sheet.data) return <State title="Reading the rows" />
  const s = sheet.data
  const zoom = Number(params.get('zoom') ?? 100) / 100
  const groups = grouped ? (outline.data?.groups ?? []) : []
  const take = (line: number, row?: number) => onHand(line, row ?? s.marks[line]?.row, view)
  const jump = (line: number) => {
    grid.current?.show(line)
    take(line)
  }
  const rows = ['table', 'crosstab', 'timeline'].includes(s.show)
  const body = () => {
    if (s.rows === 0 && s.of === 0)
      return <State title="No rows" said="Nothing met the values of this run." />
    if (s.rows === 0)
      return (
        <State
          title="No row meets the filters"
          said={`${count(s.of, 'row is', 'rows are')} left out.`}
          next={
            <Button variant="light" onClick={() => change({ filter: [] })}>
              Remove the filters
            </Button>
          }
        />
      )
    if (s.chart)
      return <ChartView sheet={s} tall={alone} onFigure={onFigure(view)} onRow={row => onRow(row, view)} />
    if (s.timeline)
      return (
        <Timeline result={result.id} sheet={s} reading={reading} tall={alone} hand={hand} onHand={take} />
      )
    if (s.show === 'form' || isRecord(s)) return <FormView sheet={s} onFigure={onFigure(view)} />
    return (
      <Grid
        handle={grid}
        result={result.id}
        report={result.report}
        sheet={s}
        reading={reading}
        tall={alone}
        zoom={zoom}
        outline={groups}
        hand={hand}
        onHand={take}
        onRow={row => onRow(row, view)}
        onChange={change}
        onFigure={onFigure(view)}
      />
    )
  }
  return (
    <section className={alone ? classes.alone : classes.block} aria-label={s.title}>
      <header className={classes.tools} data-acts={alone || undefined}>
        {tabs}
        <h2 className={alone && result.views.length > 1 ? 'unseen' : classes.title}>{s.title}</h2>
        <span className="dim figure" data-rows={s.rows}>
          {s.rows === s.of
            ? count(s.rows, 'row', 'rows')
            : `${count(s.rows, 'row', 'rows')} of ${number(s.of)}`}
        </span>
        {s.show !== 'form' && (
          <Group gap={2} className={alone ? undefined : classes.own}>
            <Grouping sheet={s} reading={reading} onChange={change} />
            {rows && s.show !== 'crosstab' && <ColumnChooser sheet={s} onChange={change} />}
            <AddColumn result={result.id} sheet={s} reading={reading} onChange={change} />
            <Filters result={result.id} sheet={s} reading={reading} onChange={change} />
          </Group>
        )}
        <Group gap={6} ml="auto" className={alone ? undefined : classes.own}>
          {alone && rows && (
            <FindBox
              key={view}
              result={result.id}
              sheet={s}
              reading={reading}
              from={hand ?? 0}
              onFound={jump}
            />
          )}
          {alone && rows && (
            <Zoom
              value={zoom}
              onChange={z =>
                setParams(
                  old => {
                    const next = new URLSearchParams(old)
                    next.set('zoom', String(z))
                    return next
                  },
                  { replace: true },
                )
              }
            />
          )}
          <KeepView
            key={s.kept?.id ?? view}
            report={result.report}
            sheet={s}
            reading={reading}
            onKept={v => setParams(v ? { view: v } : {})}
          />
          {!alone && mayTake && <TakeAway result={result} view={view} sheet={s} reading={reading} />}
          {!alone && maySend && <SendDialog result={result} view={view} sheet={s} reading={reading} />}
        </Group>
      </header>
      <Told sheet={s} reading={reading} onChange={change} />
      {s.says && <p className={classes.says}>{s.says}</p>}
      {s.dropped.length > 0 && (
        <p className={classes.dropped} role="status">
          Left out, because the result no longer has it: {s.dropped.join('; ')}.
        </p>
      )}
      {fills && (
        <EnteringContext value={entering}>
          <EntryBar
            key={reading.entries[0]}
            asOf={reading.entries[0] ?? ''}
            onAsOf={to => change({ entries: to ? [to] : [] })}
          />
        </EnteringContext>
      )}
      <div className={alone && grouped ? classes.outlined : alone ? classes.whole : undefined}>
        {alone && grouped && (
          <Outline key="outline" groups={groups} more={outline.data?.more ?? false} at={hand} onJump={jump} />
        )}
        <EnteringContext key="body" value={entering}>
          {body()}
        </EnteringContext>
      </div>
    </section>
  )
}
