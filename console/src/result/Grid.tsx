import { useElementSize } from '@mantine/hooks'
import { useRef } from 'react'
import type { Sheet } from '../api/client'
import { Cell } from './Cell'
import classes from './Grid.module.css'
import { Head } from './Head'
import { useRows } from './pages'
import type { Reading } from './reading'
import { rowHeight, useWindow } from './window'

type Props = { result: string; sheet: Sheet; reading: Reading; tall: boolean; onSort: (sort: string[]) => void }

/** Totals that need no word beside them. */
const plain = ['none', 'sum', 'ratio']

/** The longest a view is drawn that stands with others on a page. */
const mostOnPage = 12

/** The rows of a sheet. Only those in sight are fetched and drawn; headings and totals stay. */
export function Grid({ result, sheet, reading, tall, onSort }: Props) {
  const box = useRef<HTMLDivElement>(null)
  const { ref, height: measured } = useElementSize()
  const inSight = tall ? Math.max(measured - 2.6 * rowHeight, rowHeight) : Math.min(sheet.rows, mostOnPage) * rowHeight
  const { window, onScroll } = useWindow(sheet.rows, inSight)
  const row = useRows(result, sheet.view, reading, window.first, window.last)
  // Headings, rows and totals are grids of their own: shares of the same width keep them in line.
  const widths = sheet.columns.map((_, i) => width(sheet, i))
  const template = widths.map((w) => `minmax(0, ${w}fr)`).join(' ')
  const least = widths.reduce((sum, w) => sum + w, 0)
  const totals = sheet.totals.some((t) => t.text !== undefined)
  const rows: number[] = []
  for (let n = window.first; n < window.last; n++) rows.push(n)
  const keys = (e: React.KeyboardEvent) => {
    const far = { ArrowDown: rowHeight, ArrowUp: -rowHeight, PageDown: inSight, PageUp: -inSight, Home: -Infinity, End: Infinity }[e.key]
    if (far === undefined || !box.current || e.target !== box.current) return
    e.preventDefault()
    const { scrollTop, scrollHeight } = box.current
    box.current.scrollTop = Math.min(Math.max(scrollTop + far, 0), scrollHeight)
  }
  return (
    <div ref={ref} className={classes.frame} data-tall={tall || undefined}>
      <div
        ref={box} className={classes.box} role="table" aria-label={sheet.title} aria-rowcount={sheet.rows + 1} tabIndex={0} data-sheet={sheet.view}
        style={{ maxHeight: tall ? '100%' : inSight + (totals ? 62 : 32) }} onScroll={onScroll} onKeyDown={keys}
      >
        <div style={{ minWidth: `${least}ch` }}>
          <Head sheet={sheet} template={template} onSort={onSort} />
          <div className={classes.body} style={{ height: window.height }}>
            <div style={{ transform: `translateY(${window.offset}px)` }}>
              {rows.map((n) => {
                const got = row(n)
                return (
                  <div key={n} role="row" aria-rowindex={n + 2} className={classes.row} data-odd={n % 2 === 1 || undefined} style={{ gridTemplateColumns: template, height: rowHeight }}>
                    {sheet.columns.map((c, i) => <Cell key={c.id} column={c} text={got?.cells[i]} links={got?.links} />)}
                  </div>
                )
              })}
            </div>
          </div>
          {totals && (
            <div role="row" className={classes.totals} style={{ gridTemplateColumns: template }}>
              {sheet.totals.map((t, i) => (
                <div key={sheet.columns[i].id} role="cell" className={sheet.columns[i].right ? classes.right : undefined}>
                  {t.text !== undefined && <>{plain.includes(t.op) || <small>{t.op} </small>}{t.text}</>}
                </div>
              ))}
            </div>
          )}
        </div>
      </div>
    </div>
  )
}

/** The width of a column in characters, from its heading, total and first rows. */
function width(sheet: Sheet, i: number) {
  const longest = Math.max(...sheet.cells.slice(0, 60).map((c) => c[i]?.length ?? 0), 0)
  const total = sheet.totals[i].text?.length ?? 0
  const heading = Math.min(sheet.columns[i].heading.length + 2, 20)
  const gaps = 6 // the padding of a cell, and a little for letters wider than digits
  return Math.min(Math.max(longest, total + (plain.includes(sheet.totals[i].op) ? 0 : sheet.totals[i].op.length + 1), heading, 5), 36) + gaps
}
