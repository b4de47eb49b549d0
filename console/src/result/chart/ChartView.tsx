import { lazy, Suspense, useState } from 'react'
import type { ChartData, Sheet } from '../../api/client'
import type { OnFigure } from '../sheet/Line'
import { ChartTable } from './ChartTable'
import classes from './ChartView.module.css'
import { Legend } from './Legend'
import { Points, type PointAt } from './Points'

// The drawing library is fetched when a chart is shown for the first time.
const Drawing = lazy(() => import('./Drawing'))

type Props = { sheet: Sheet; tall: boolean; onFigure: OnFigure; onRow: (row: number) => void }

/**
 * A chart with its points: the pointer and the keyboard reach each, and each opens into its rows. Its
 * series can be hidden or drawn apart, and its figures stand beside it as a table.
 */
export function ChartView({ sheet, tall, onFigure, onRow }: Props) {
  const [active, setActive] = useState<PointAt>()
  const [hidden, setHidden] = useState<number[]>([])
  const [apart, setApart] = useState(false)
  const [table, setTable] = useState(false)
  const chart = sheet.chart!
  const open = (at: HTMLElement, p: PointAt) => {
    if (chart.form === 'scatter') return onRow(chart.points[p.place].row)
    onFigure(at, {
      path: chart.places[p.place].path,
      across: chart.series[p.series].path,
      of: chart.series[p.series].id,
    })
  }
  const several = chart.form !== 'pie' && chart.form !== 'scatter' && chart.series.length > 1
  const shown = chart.series.map((_, n) => n).filter(n => !hidden.includes(n))
  const drawing = (without: number[], ends?: [number, number]) => (
    <Suspense fallback={<div className={classes.drawing} />}>
      <Drawing {...{ chart, active, ends }} hidden={without} onActive={setActive} onOpen={open} />
    </Suspense>
  )
  return (
    <figure
      className={classes.chart}
      data-tall={tall || undefined}
      data-chart={sheet.view}
      data-apart={(apart && several) || undefined}
    >
      <p className={classes.axis}>
        {chart.y.label}
        {chart.x.label && <span className="dim"> by {chart.x.label}</span>}
      </p>
      <div className={classes.middle} data-table={table || undefined}>
        {apart && several ? (
          <div className={classes.several}>
            {shown.map(n => (
              <div key={n}>
                <h3>{chart.series[n].label}</h3>
                {drawing(
                  chart.series.map((_, m) => m).filter(m => m !== n),
                  endsOf(chart, shown),
                )}
              </div>
            ))}
          </div>
        ) : (
          drawing(hidden)
        )}
        {table && <ChartTable chart={chart} series={shown} onOpen={open} />}
      </div>
      <Points chart={chart} series={shown} active={active} onActive={setActive} onOpen={open}>
        {several && <Legend chart={chart} hidden={hidden} onHidden={setHidden} />}
        <span className={classes.ways}>
          {several && (
            <button type="button" className="act" aria-pressed={apart} onClick={() => setApart(!apart)}>
              {apart ? 'Together' : 'Each apart'}
            </button>
          )}
          <button type="button" className="act" aria-pressed={table} onClick={() => setTable(!table)}>
            {table ? 'Without figures' : 'Figures'}
          </button>
        </span>
      </Points>
    </figure>
  )
}

/** The least and the most that series have, with nothing, so that what is drawn apart can be compared. */
function endsOf(chart: ChartData, series: number[]): [number, number] {
  const all = series.flatMap(n => chart.series[n].values.filter(v => v !== null))
  return [-above(-Math.min(0, ...all)), above(Math.max(0, ...all))]
}

/** The next half of a power of ten, or multiple of it, so that the axis ends at a round number. */
function above(n: number) {
  const step = 10 ** Math.floor(Math.log10(n)) / 2
  return n > 0 ? Math.ceil(n / step) * step : 0
}
