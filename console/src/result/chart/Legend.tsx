import type { ChartData } from '../../api/client'
import classes from './ChartView.module.css'

type Props = { chart: ChartData; hidden: number[]; onHidden: (series: number[]) => void }

/** What the colours of a chart are; a click hides a series, and shows it again. The last one stays. */
export function Legend({ chart, hidden, onHidden }: Props) {
  const flip = (n: number) => {
    if (hidden.includes(n)) return onHidden(hidden.filter(h => h !== n))
    if (hidden.length < chart.series.length - 1) onHidden([...hidden, n])
  }
  return (
    <span className={classes.legend} role="group" aria-label="Series">
      {chart.series.map((s, n) => (
        <button key={s.label} type="button" aria-pressed={!hidden.includes(n)} onClick={() => flip(n)}>
          <i data-series={n % 8} />
          {s.label}
        </button>
      ))}
    </span>
  )
}
