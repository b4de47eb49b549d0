import { lazy, Suspense, useState } from 'react'
import type { Sheet } from '../../api/client'
import type { OnFigure } from '../sheet/Line'
import classes from './ChartView.module.css'
import { Points, type PointAt } from './Points'

// The drawing library is fetched when a chart is shown for the first time.
const Drawing = lazy(() => import('./Drawing'))

type Props = { sheet: Sheet; tall: boolean; onFigure: OnFigure; onRow: (row: number) => void }

/** A chart with its points: the pointer and the keyboard reach each, and each opens into its rows. */
export function ChartView({ sheet, tall, onFigure, onRow }: Props) {
  const [active, setActive] = useState<PointAt>()
  const chart = sheet.chart!
  const open = (at: HTMLElement, p: PointAt) => {
    if (chart.form === 'scatter') return onRow(chart.points[p.place].row)
    onFigure(at, {
      path: chart.places[p.place].path,
      across: chart.series[p.series].path,
      of: chart.series[p.series].id,
    })
  }
  return (
    <figure className={classes.chart} data-tall={tall || undefined} data-chart={sheet.view}>
      <Suspense fallback={<div className={classes.drawing} />}>
        <Drawing chart={chart} active={active} onActive={setActive} onOpen={open} />
      </Suspense>
      <Points chart={chart} active={active} onActive={setActive} onOpen={open} />
    </figure>
  )
}
