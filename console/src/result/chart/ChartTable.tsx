import type { ChartData } from '../../api/client'
import classes from './ChartView.module.css'
import type { PointAt } from './Points'

type Props = {
  chart: ChartData
  /** Those that are not hidden. */
  series: number[]
  onOpen: (at: HTMLElement, p: PointAt) => void
}

/** The figures of a chart as a table beside it; each opens as its point does. */
export function ChartTable({ chart, series, onOpen }: Props) {
  const figure = (text: string | null | undefined, p: PointAt) =>
    text ? (
      <button type="button" className={classes.figure} onClick={e => onOpen(e.currentTarget, p)}>
        {text}
      </button>
    ) : null
  return (
    <div className={classes.table} tabIndex={0} role="region" aria-label="Figures of the chart">
      <table>
        <thead>
          <tr>
            <th scope="col">{chart.x.label}</th>
            {chart.form === 'scatter' ? (
              <th scope="col">{chart.y.label}</th>
            ) : (
              series.map(n => (
                <th key={n} scope="col">
                  {chart.series[n].label}
                </th>
              ))
            )}
          </tr>
        </thead>
        <tbody>
          {chart.form === 'scatter'
            ? chart.points.map((p, place) => (
                <tr key={p.row}>
                  <th scope="row">{p.name || p.x_text}</th>
                  <td>{figure(p.y_text, { place, series: 0 })}</td>
                </tr>
              ))
            : chart.places.map((p, place) => (
                <tr key={p.path}>
                  <th scope="row">{p.name}</th>
                  {series.map(n => (
                    <td key={n}>{figure(chart.series[n].texts[place], { place, series: n })}</td>
                  ))}
                </tr>
              ))}
        </tbody>
      </table>
    </div>
  )
}
