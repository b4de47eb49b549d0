import dayjs from 'dayjs'
import { useElementSize } from '@mantine/hooks'
import type { Sheet } from '../../api/client'
import type { Reading } from '../reading'
import { Cell } from './Cell'
import { useSight } from './pages'
import classes from './Timeline.module.css'
import { lineHeight, useWindow } from './window'

type Props = {
  result: string
  sheet: Sheet
  reading: Reading
  tall: boolean
  hand: number | undefined
  onHand: (line: number) => void
}

const most = 16
const widest = 72 // pixels of a name along the scale
const steps = [1, 3, 6, 12, 24, 60, 120] // months

/** Bars from a first to a last day on a scale of days; one line each. */
export function Timeline({ result, sheet, reading, tall, hand, onHand }: Props) {
  const { ref, height } = useElementSize()
  const lane = useElementSize()
  const t = sheet.timeline!
  const inSight = tall ? Math.max(height - 40, lineHeight) : Math.min(sheet.lines, most) * lineHeight
  const { window, onScroll } = useWindow(sheet.lines, inSight)
  const sight = useSight(
    result,
    sheet,
    reading,
    window,
    sheet.columns.map((_, i) => i),
    [],
  )
  const from = dayjs(t.from)
  const days = dayjs(t.to).diff(from, 'day') + 1
  const at = (day: string, more = 0) => `${((dayjs(day).diff(from, 'day') + more) / days) * 100}%`
  const label = Math.max(
    sheet.columns.findIndex(c => c.id === t.label),
    0,
  )
  const ticks = scale(t.from, t.to, lane.width / widest)
  const lines: number[] = []
  for (let n = window.first; n < window.last; n++) lines.push(n)
  const keys = (e: React.KeyboardEvent) => {
    const to = { ArrowDown: (hand ?? -1) + 1, ArrowUp: (hand ?? 1) - 1 }[e.key]
    if (to === undefined) return
    e.preventDefault()
    onHand(Math.min(Math.max(to, 0), sheet.lines - 1))
  }
  return (
    <div ref={ref} className={classes.frame} data-tall={tall || undefined}>
      <div
        className={classes.box}
        style={{ maxHeight: tall ? '100%' : inSight + 36 }}
        onScroll={onScroll}
        tabIndex={0}
        onKeyDown={keys}
        role="group"
        aria-label={sheet.title}
        data-sheet={sheet.view}
      >
        <div className={classes.head}>
          <span>{sheet.columns[label]?.heading}</span>
          <div ref={lane.ref} className={classes.scale}>
            {ticks.map(k => (
              <span key={k.day} style={{ left: at(k.day) }}>
                {k.text}
              </span>
            ))}
          </div>
        </div>
        <div style={{ height: window.height, position: 'relative', overflow: 'hidden' }}>
          <div style={{ transform: `translateY(${window.offset}px)` }}>
            {lines.map(n => {
              const { mark, cells, links } = sight.line(n)
              const column = sight.column(label)
              const [first, last] = mark?.span ?? []
              const said = cells.filter(Boolean).join(' · ')
              return (
                // Keys are the timeline's; a click is for pointers.
                // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-noninteractive-element-interactions
                <div
                  key={n}
                  role="group"
                  aria-label={said}
                  className={classes.line}
                  style={{ height: lineHeight }}
                  data-hand={n === hand || undefined}
                  data-tone={mark?.tone}
                  onClick={() => onHand(n)}
                >
                  <span className={classes.name}>
                    {column && <Cell alone column={column} text={cells[label]} links={links} tone="" />}
                  </span>
                  <div className={classes.lane}>
                    {ticks.map(k => (
                      <i key={k.day} style={{ left: at(k.day) }} />
                    ))}
                    {first && last && (
                      <b
                        title={said}
                        style={{ left: at(first), width: `calc(${at(last, 1)} - ${at(first)})` }}
                      />
                    )}
                    {t.today && t.today >= t.from && t.today <= t.to && (
                      <em style={{ left: at(t.today) }} title="The day of the run" />
                    )}
                  </div>
                </div>
              )
            })}
          </div>
        </div>
      </div>
    </div>
  )
}

/** Names along the scale: months, quarters or years, as there is room for so many. */
function scale(from: string, to: string, room: number) {
  const months = dayjs(to).diff(from, 'month') + 1
  const step = steps.find(s => months / s <= room) ?? steps.at(-1)!
  const out: { day: string; text: string }[] = []
  let d = dayjs(from).startOf('month')
  while (d.isBefore(from) || (d.year() * 12 + d.month()) % step !== 0) d = d.add(1, 'month')
  for (; !d.isAfter(to); d = d.add(step, 'month'))
    out.push({ day: d.format('YYYY-MM-DD'), text: step >= 12 ? d.format('YYYY') : d.format('MMM YYYY') })
  return out
}
