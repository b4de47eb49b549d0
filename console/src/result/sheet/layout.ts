import type { Column, Sheet } from '../../api/client'
import type { Widths } from './widths'

/** Totals that need no word beside them. */
export const plain = ['none', 'sum', 'ratio']

/** How the columns of a sheet stand: their widths in characters, and what is drawn before them. */
export type Layout = {
  /** The width of what the lines are grouped by; 0 where they are not. */
  name: number
  widths: number[]
  /** Whether the reader set a width, by the place of the column. */
  set: boolean[]
  /** Places of the columns that are not folded away. */
  columns: number[]
  /** Columns of one width that are drawn only where they are in sight. */
  wide: boolean
}

const nameWidth = 28

/** The widths of a sheet's columns, from their headings, totals and first lines. */
export function layoutOf(sheet: Sheet, folded: string[], own: Widths): Layout {
  const name = sheet.levels.length || sheet.show === 'crosstab' ? nameWidth : 0
  const columns = Array.from({ length: sheet.columns_of }, (_, i) => i).filter(
    i => !hidden(sheet.columns, i, folded),
  )
  const wide = sheet.columns_of > sheet.columns.length || sheet.columns_of > 40
  const ownOf = (i: number) => (wide || sheet.show === 'crosstab' ? undefined : own[sheet.columns[i].id])
  const widths = columns.map(i =>
    wide ? Math.max(...sheet.columns.map((_, c) => width(sheet, c))) : (ownOf(i) ?? width(sheet, i)),
  )
  return { name, widths, set: columns.map(i => ownOf(i) !== undefined), columns, wide }
}

/** A folded group of columns shows its first. */
function hidden(columns: Column[], i: number, folded: string[]) {
  const under = columns[i]?.under
  return Boolean(under && folded.includes(under) && columns[i - 1]?.under === under)
}

/** The width that all of a column's content has, as far as it has arrived. */
export function fitOf(sheet: Sheet, i: number) {
  return width(sheet, i, 120)
}

function width(sheet: Sheet, i: number, most = 36) {
  const column = sheet.columns[i]
  const longest = Math.max(...sheet.cells.slice(0, 60).map(c => c[i]?.length ?? 0), 0)
  const total = sheet.totals[i]
  const word = !total || sheet.show === 'crosstab' || plain.includes(total.op) ? 0 : total.op.length + 1
  const heading = headingWidth(sheet, column)
  const gaps = 5 // the padding of a cell, and a little for letters wider than digits
  return Math.min(Math.max(longest, (total?.text?.length ?? 0) + word, heading, 5), most) + gaps
}

/** A long heading takes two lines. */
function headingWidth(sheet: Sheet, column: Column) {
  const measures = sheet.across.length === 0 || (sheet.measures.length > 1 && !sheet.stacked)
  if (sheet.show === 'crosstab')
    return Math.min((measures ? column.heading : (column.heads.at(-1) ?? 'Total')).length, 20) + 1
  const length = column.heading.length + 2
  if (length <= oneLine) return length
  return Math.min(
    Math.max(...column.heading.split(' ').map(w => w.length + 1), Math.ceil(length / 2) + 1),
    20,
  )
}

const oneLine = 13

export function twoLines(sheet: Sheet) {
  return sheet.show !== 'crosstab' && sheet.columns.some(c => c.heading.length + 2 > oneLine)
}

/** Which of the columns are in sight; all where they are few. */
export function columnsInSight(layout: Layout, left: number, boxWidth: number, ch: number) {
  if (!layout.wide) return { first: 0, last: layout.columns.length, before: 0 }
  const each = (layout.widths[0] ?? 10) * ch
  const first = Math.max(Math.floor(left / each) - 2, 0)
  const last = Math.min(first + Math.ceil(boxWidth / each) + 4, layout.columns.length)
  return { first, last, before: first * (layout.widths[0] ?? 10) }
}

/** The columns of the CSS grid that headings, lines and totals have alike. */
export function templateOf(layout: Layout, first: number, last: number, before: number, blanks: number) {
  const drawn = layout.widths.slice(first, last)
  if (layout.wide) return [`${layout.name}ch`, `${before}ch`, ...drawn.map(w => `${w}ch`)].join(' ')
  return [
    ...(layout.name ? [`minmax(${layout.name}ch, ${layout.name - 8}fr)`] : []),
    ...drawn.map((w, i) => (layout.set[first + i] ? `${w}ch` : `minmax(0, ${w}fr)`)),
    ...Array(blanks).fill('minmax(0, 18fr)'),
  ].join(' ')
}

export function leastWidth(layout: Layout, blanks: number) {
  return layout.name + layout.widths.reduce((sum, w) => sum + w, 0) + blanks * 14
}
