import { useElementSize } from '@mantine/hooks'
import { useContext, useEffect, useImperativeHandle, useMemo, useRef, useState, type Ref } from 'react'
import type { Outlined, Schemas, Sheet } from '../../api/client'
import { useSession } from '../../signin/session'
import { EnteringContext, pasted } from '../entering/entering'
import type { Change, Reading } from '../reading'
import classes from './Grid.module.css'
import { Head } from './Head'
import { columnsInSight, layoutOf, leastWidth, templateOf, twoLines } from './layout'
import { Passing } from './Passing'
import { Line, type LineActs, type OnFigure } from './Line'
import { pageLines, useSight } from './pages'
import { usePrinting } from './printing'
import { stuckAt, stuckOver } from './stuck'
import { Totals } from './Totals'
import { closeHeight, lineHeight, useWindow } from './window'
import { InHand } from './InHand'
import { Picked, usePicked } from './Picked'
import area from './Picked.module.css'
import { usePicking } from './picking'
import { useWidths } from './widths'
import { number } from '../../parts/form'

export type GridHandle = { show: (line: number) => void }

type Props = {
  result: string
  report: string
  sheet: Sheet
  reading: Reading
  tall: boolean
  zoom: number
  outline: Outlined[]
  hand: number | undefined
  handle?: Ref<GridHandle>
  onHand: (line: number, row: number | undefined) => void
  onRow: (row: number) => void
  onChange: Change
  onFigure: OnFigure
}

/** The longest a view is drawn that stands with others on a page. */
const mostOnPage = 14

/**
 * The lines of a sheet. Only those in sight are fetched and drawn; headings, totals and the groups
 * that the first line is of stay.
 */
export function Grid({
  result,
  report,
  sheet,
  reading,
  tall,
  zoom,
  outline,
  hand,
  handle,
  onHand,
  onRow,
  onChange,
  onFigure,
}: Props) {
  const box = useRef<HTMLDivElement>(null)
  const [folded, setFolded] = useState<string[]>([])
  const [cell, setCell] = useState(-1)
  const { ref, height: measured, width: boxWidth } = useElementSize()
  const { who } = useSession()
  const height = Math.round((who?.ways.density === 'close' ? closeHeight : lineHeight) * zoom)
  const heads =
    1 +
    (twoLines(sheet) ? 0.6 : 0) +
    (sheet.show === 'crosstab'
      ? Math.max(sheet.across.length - (sheet.measures.length > 1 && !sheet.stacked ? 0 : 1), 0)
      : sheet.columns.some(c => c.under)
        ? 1
        : 0)
  const inSight = tall
    ? Math.max(measured - (heads + 1.6) * height, height)
    : Math.min(sheet.lines, mostOnPage) * height
  const { window: seen, left, flying, topOf, onScroll } = useWindow(sheet.lines, inSight, height)
  const landed = useRef(seen)
  if (!flying) landed.current = seen
  const printing = usePrinting()
  const window = printing
    ? { ...seen, first: 0, last: Math.min(sheet.lines, pageLines), top: 0 }
    : flying
      ? { ...landed.current, height: seen.height }
      : seen
  const [widths, setWidth] = useWidths(report, sheet.dataset)
  const layout = useMemo(() => layoutOf(sheet, folded, widths), [sheet, folded, widths])
  const ch = 7.1 * zoom
  const across = columnsInSight(layout, left, boxWidth, ch)
  const stuck = stuckOver(outline, window.top)
  const places = useMemo(
    () => layout.columns.slice(across.first, across.last),
    [layout, across.first, across.last],
  )
  const sight = useSight(result, sheet, reading, window, places, stuck)
  const known = places.map(i => sight.column(i))
  const drawn = useSame(known)
  const sums = useSame(places.map(i => sight.total(i)))
  const template = templateOf(layout, across.first, across.last, across.before, sheet.blanks.length)
  const led =
    layout.name === 0 &&
    !layout.wide &&
    leastWidth(layout, sheet.blanks.length) * ch > boxWidth &&
    boxWidth > 0
  const before = (layout.name > 0 ? 1 : 0) + (layout.wide ? 1 : 0)
  const pick = usePicking(before, across.first, layout.columns.length, sheet.lines)
  const picked = usePicked(result, sheet, reading, pick.area, layout.columns)
  const totals = sheet.totals.some(t => t.text !== undefined)
  // Lines are drawn in places that are used again, as many as are ever in sight.
  const pool = Math.ceil(inSight / height) + 14
  const lines: number[] = []
  for (let n = window.first; n < window.last; n++) lines.push(n)
  const show = (line: number) => {
    if (!box.current) return
    const margin = stuckAt(outline, line).length
    const top = topOf(Math.max(line - Math.max(margin, 2), 0))
    if (line < window.top + margin + 1 || line > window.top + inSight / height - 2)
      box.current.scrollTop = top
  }
  useImperativeHandle(handle, () => ({ show }))
  useEffect(() => setFolded([]), [sheet.view])
  const onFold = useMemo(
    () => (u: string) => setFolded(f => (f.includes(u) ? f.filter(x => x !== u) : [...f, u])),
    [],
  )
  const fold = (path: string) =>
    onChange({
      fold: reading.fold.includes(path) ? reading.fold.filter(p => p !== path) : [...reading.fold, path],
    })
  const entering = useContext(EnteringContext)
  // Cells that are filled in from the cell at hand on: so many rows down, and columns to the right.
  const fill = (values: string[][]) => {
    const cells: Schemas['EntryCell'][] = []
    let n = hand ?? sheet.lines
    for (const texts of values) {
      while (n < sheet.lines && sight.line(n).mark && sight.line(n).mark?.kind !== 'row') n++
      const row = n < sheet.lines ? sight.line(n).mark?.row : undefined
      if (row === undefined)
        return entering?.refuse(
          `There are ${values.length} lines, and ${n - hand!} rows from here on that are in sight; fill in fewer, or from a file.`,
        )
      texts.forEach((value, i) => {
        const c = sight.column(layout.columns[cell + i])
        if (c?.entry) cells.push({ row, column: c.id, value })
      })
      n++
    }
    if (cells.length > 0) entering?.put(cells, 'pasted')
  }
  const onPaste = (e: React.ClipboardEvent) => {
    if (e.target !== box.current || !entering || hand === undefined || cell < 0) return
    e.preventDefault()
    fill(pasted(e.clipboardData.getData('text/plain')))
  }
  /** What was typed into the cell above goes into the cell at hand. */
  const fillDown = () => {
    const c = cell < 0 ? undefined : sight.column(layout.columns[cell])
    if (!c?.entry || hand === undefined || hand === 0) return
    const above = sight.line(hand - 1).mark?.row
    if (above !== undefined) fill([[entering?.at(above, c.id)?.value ?? '']])
  }
  const onCopy = (e: React.ClipboardEvent) => {
    const typing = (e.target as HTMLElement).closest('input, textarea')
    if (!pick.area || !picked.data || typing || !document.getSelection()?.isCollapsed) return
    e.preventDefault()
    e.clipboardData.setData('text/plain', picked.data.text)
  }
  /** Keys that pick cells; false for others. */
  const pickKeys = (e: React.KeyboardEvent) => {
    if (e.key === 'Escape' && pick.area) return (pick.clear(), true)
    if ((e.ctrlKey || e.metaKey) && e.key === 'a') return (pick.all(), true)
    const by = { ArrowDown: [1, 0], ArrowUp: [-1, 0], ArrowRight: [0, 1], ArrowLeft: [0, -1] }[e.key]
    if (!e.shiftKey || !by || hand === undefined) return false
    show(pick.extend({ line: hand, at: cell }, by[0], by[1]).line)
    return true
  }
  const keys = (e: React.KeyboardEvent) => {
    if (e.target !== box.current) return
    if (pickKeys(e)) return (e.preventDefault(), e.stopPropagation())
    const now = hand ?? window.top - 1
    const page = Math.floor(inSight / height) - 1
    const to = {
      ArrowDown: now + 1,
      ArrowUp: now - 1,
      PageDown: now + page,
      PageUp: now - page,
      Home: 0,
      End: sheet.lines - 1,
    }[e.key]
    if (to !== undefined) {
      e.preventDefault()
      const line = Math.min(Math.max(to, 0), sheet.lines - 1)
      onHand(line, sight.line(line).mark?.row)
      show(line)
      return
    }
    const mark = hand === undefined ? undefined : sight.line(hand).mark
    if (entering && (e.ctrlKey || e.metaKey) && e.key === 'z') return (e.preventDefault(), entering.undo())
    if (entering && (e.ctrlKey || e.metaKey) && e.key === 'd') return (e.preventDefault(), fillDown())
    if (e.key === 'Enter' && cell >= 0)
      return box.current!.querySelector<HTMLElement>('[data-hand] [data-at] > :is(a, button)')?.click()
    if (mark?.row !== undefined && e.key === 'Enter') return onRow(mark.row)
    const foldable = mark?.kind === 'group' && cell < 0 && (e.key === 'ArrowRight' ? !mark.open : mark.open)
    if (foldable && ['ArrowRight', 'ArrowLeft'].includes(e.key)) return fold(mark.path!)
    const aside = { ArrowRight: 1, ArrowLeft: -1 }[e.key]
    if (aside && hand !== undefined) {
      e.preventDefault()
      return setCell(Math.min(Math.max(cell + aside, -1), layout.columns.length - 1))
    }
    if (mark?.kind === 'group' && e.key === 'Enter')
      onFigure(box.current!.querySelector<HTMLElement>('[data-hand]') ?? box.current!, {
        path: mark.path!,
        across: '',
        of: '',
      })
  }
  useEffect(() => {
    // What scrolling gives back, in some browsers a promise, is no cleaning up.
    void box.current
      ?.querySelector('[data-hand] [data-at]')
      ?.scrollIntoView({ block: 'nearest', inline: 'nearest' })
  }, [cell, hand])
  const at = cell < 0 ? -1 : places.indexOf(layout.columns[cell])
  const latest = useRef({ onHand, onRow, fold, onFigure })
  latest.current = { onHand, onRow, fold, onFigure }
  const acts = useMemo<LineActs>(
    () => ({
      hand: (l, row) => latest.current.onHand(l, row),
      row: row => latest.current.onRow(row),
      fold: path => latest.current.fold(path),
      figure: (at, cell) => latest.current.onFigure(at, cell),
    }),
    [],
  )
  const line = (n: number, key: number) => (
    <Line
      key={key}
      {...{ sheet, template, height, acts }}
      data={sight.line(n)}
      columns={drawn}
      named={layout.name > 0}
      wide={layout.wide}
      line={n}
      inHand={n === hand}
      cell={n === hand ? at : -1}
    />
  )
  return (
    <div ref={ref} className={classes.frame} data-tall={tall || undefined}>
      <InHand
        sheet={sheet}
        line={hand === undefined ? undefined : { number: hand, ...sight.line(hand) }}
        columns={drawn}
        cell={at}
      />
      <div
        ref={box}
        className={classes.box}
        role={sheet.levels.length ? 'treegrid' : 'table'}
        aria-label={sheet.title}
        aria-rowcount={sheet.lines + 1}
        // eslint-disable-next-line jsx-a11y/no-noninteractive-tabindex -- it scrolls by keys
        tabIndex={0}
        data-sheet={sheet.kept?.id ?? sheet.view}
        data-led={led || undefined}
        data-deep={sheet.levels.length > 1 || sheet.marks.some(m => m.kind === 'row') || undefined}
        aria-describedby="sheet-keys"
        style={{
          maxHeight: tall ? '100%' : inSight + heads * height + (totals ? 34 : 4),
          fontSize: `${0.88 * zoom}rem`,
          // What is scrolled to does not end below the column that stays.
          scrollPaddingLeft: `${layout.name || (led ? layout.widths[0] : 0)}ch`,
        }}
        onScroll={onScroll}
        onKeyDown={keys}
        onPaste={onPaste}
        onCopy={onCopy}
        data-picking={pick.picking || undefined}
        {...pick.pointer}
      >
        <div
          style={
            layout.wide
              ? { width: `${leastWidth(layout, 0)}ch` }
              : { minWidth: `${leastWidth(layout, sheet.blanks.length)}ch` }
          }
        >
          <div className={classes.top}>
            <Head
              {...{ result, sheet, reading, layout, places, template, folded, onChange, onFold }}
              onWidth={setWidth}
              columns={drawn}
            />
            {stuck.length > 0 && (
              <div className={classes.stuck} data-stuck data-flying={flying || undefined}>
                {stuck.map(n => line(n, n))}
              </div>
            )}
          </div>
          <div className={classes.body} style={{ height: window.height }}>
            <div hidden={flying} style={{ transform: `translateY(${window.offset}px)` }}>
              {lines.map(n => line(n, printing ? n : n % pool))}
              {pick.area && pick.area.first < window.last && pick.area.last >= window.first && (
                <div
                  className={area.area}
                  style={{
                    gridTemplateColumns: template,
                    top: (Math.max(pick.area.first, window.first) - window.first) * height,
                    height:
                      (Math.min(pick.area.last, window.last - 1) -
                        Math.max(pick.area.first, window.first) +
                        1) *
                      height,
                  }}
                >
                  <div
                    style={{
                      gridColumn: `${Math.max(pick.area.left - across.first, 0) + before + 1} / ${
                        Math.min(pick.area.right, across.last - 1) - across.first + before + 2
                      }`,
                    }}
                  />
                </div>
              )}
            </div>
          </div>
          {totals && (
            <Totals
              sheet={sheet}
              columns={drawn}
              totals={sums}
              named={layout.name > 0}
              wide={layout.wide}
              template={template}
              acts={acts}
            />
          )}
        </div>
      </div>
      {printing && sheet.lines > pageLines && (
        <p>
          The first {pageLines} of {number(sheet.lines)} lines. Taken away as pages (PDF), it is whole.
        </p>
      )}
      {flying && <Passing sheet={sheet} outline={outline} window={seen} />}
      {pick.area && <Picked picked={picked} onClear={pick.clear} />}
    </div>
  )
}

/** The same array as before while its elements are the same. */
function useSame<T>(now: T[]): T[] {
  const kept = useRef(now)
  if (kept.current.length !== now.length || kept.current.some((x, i) => x !== now[i])) kept.current = now
  return kept.current
}
