import { useRef } from 'react'
import type { ChartData } from '../../api/client'
import classes from './ChartView.module.css'
import { number } from '../../parts/form'

/**
 * A point of a chart: the place along it and the series; of scatter charts the place is that of the
 * point.
 */
export type PointAt = { place: number; series: number }

type Props = {
  chart: ChartData
  /** Those that are not hidden, between which arrows move. */
  series: number[]
  active: PointAt | undefined
  /** What stands beside it. */
  children?: React.ReactNode
  onActive: (p: PointAt | undefined) => void
  onOpen: (at: HTMLElement, p: PointAt) => void
}

/** What a point says. */
export function saidOf(chart: ChartData, p: PointAt) {
  if (chart.form === 'scatter') {
    const point = chart.points[p.place]
    return point ? `${point.name ? `${point.name}: ` : ''}${point.x_text}, ${point.y_text}` : ''
  }
  const series = chart.series[p.series]
  const name = chart.series.length > 1 ? `, ${series?.label}` : ''
  return `${chart.places[p.place]?.name}${name}: ${series?.texts[p.place] ?? 'nothing'}`
}

/**
 * Below a chart: the point in hand in words. With the focus here arrows move among the points, and
 * Enter opens one.
 */
export function Points({ chart, series: shown, active, children, onActive, onOpen }: Props) {
  const button = useRef<HTMLButtonElement>(null)
  const places = chart.form === 'scatter' ? chart.points.length : chart.places.length
  const series = chart.form === 'scatter' ? [0] : shown
  const keys = (e: React.KeyboardEvent) => {
    const step = {
      ArrowRight: [1, 0],
      ArrowLeft: [-1, 0],
      ArrowDown: [0, 1],
      ArrowUp: [0, -1],
      Home: [-Infinity, 0],
      End: [Infinity, 0],
    }[e.key]
    if (!step || places === 0) return
    e.preventDefault()
    const now = active ?? { place: step[0] > 0 || step[1] ? -1 : 0, series: 0 }
    const within = (n: number, of: number) => Math.min(Math.max(n, 0), of - 1)
    const at = within(Math.max(series.indexOf(now.series), 0) + step[1], series.length)
    onActive({ place: within(now.place + step[0], places), series: series[at] })
  }
  const said = active
    ? saidOf(chart, active)
    : chart.form === 'scatter' && chart.points.length < chart.of
      ? `The first ${number(chart.points.length)} of ${number(chart.of)} points`
      : highest(chart, shown)
  return (
    <figcaption className={classes.caption}>
      <button
        ref={button}
        type="button"
        className={classes.point}
        onKeyDown={keys}
        onClick={() => active && onOpen(button.current!, active)}
        aria-label={`${said}. ${active ? 'Enter opens its rows, arrows go on.' : 'Arrows go through the points.'}`}
        data-point
      >
        {said}
      </button>
      {chart.marks.map(m => (
        <span key={m.label} className="dim">
          ┄ {m.label} {m.text}
        </span>
      ))}
      {children}
    </figcaption>
  )
}

/** The highest point in words, while none is in hand. */
function highest(chart: ChartData, series: number[]) {
  let at: PointAt | undefined
  let most = -Infinity
  for (const n of series)
    chart.series[n]?.values.forEach((v, place) => {
      if (v !== null && v > most) {
        most = v
        at = { place, series: n }
      }
    })
  return at ? `Highest: ${saidOf(chart, at)}` : `${number(chart.of)} points`
}
