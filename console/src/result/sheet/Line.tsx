import { memo } from 'react'
import type { Column, Sheet } from '../../api/client'
import { EntryCell } from '../entering/EntryCell'
import type { FigureAt } from '../figure/trail'
import { Cell } from './Cell'
import classes from './Grid.module.css'
import type { LineData } from './pages'
import { number } from '../../parts/form'

export type OnFigure = (at: HTMLElement, cell: FigureAt) => void

/** What a line can ask for. */
export type LineActs = {
  hand: (line: number, row: number | undefined) => void
  row: (row: number) => void
  fold: (path: string) => void
  figure: OnFigure
}

type Props = {
  sheet: Sheet
  data: LineData
  columns: (Column | undefined)[]
  /** Whether a name of groups stands first. */
  named: boolean
  /** Whether columns before those in sight are left out. */
  wide: boolean
  line: number
  template: string
  height: number
  inHand: boolean
  acts: LineActs
  /** Of the line in hand: the place of the column that the keyboard is at; -1 for the line itself. */
  cell: number
}

/** One line: a row, a group with its figures, or a line of a crosstab. */
export const Line = memo(function Line({
  sheet,
  data,
  columns,
  named,
  wide,
  line,
  template,
  height,
  inHand,
  acts,
  cell,
}: Props) {
  const { mark } = data
  const group = mark !== undefined && mark.kind !== 'row'
  const crosstab = sheet.show === 'crosstab'
  const deepest = mark?.level === sheet.levels.length && crosstab
  const opens = (c: { id: string; path: string; figure?: boolean; behind?: boolean }) => {
    if (group && (crosstab || c.figure))
      return (at: HTMLElement) => acts.figure(at, { path: mark.path ?? '', across: c.path, of: c.id })
    if (!group && c.behind && mark?.row !== undefined)
      return (at: HTMLElement) => acts.figure(at, { path: '', across: '', of: c.id, row: mark.row })
  }
  return (
    // Keys are the sheet's, which moves the hand over its rows; a click is for pointers.
    // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/interactive-supports-focus
    <div
      role="row"
      aria-rowindex={line + 2}
      aria-level={mark?.level}
      aria-expanded={group && mark.kind === 'group' && !deepest ? Boolean(mark.open) : undefined}
      className={classes.row}
      data-odd={line % 2 === 1 || undefined}
      data-kind={mark?.kind}
      data-level={group ? mark.level : undefined}
      data-tone={mark?.tone}
      data-hand={inHand || undefined}
      style={{ gridTemplateColumns: template, height }}
      onClick={e => {
        if ((e.target as HTMLElement).closest('a, button')) return
        acts.hand(line, mark?.row)
        // A finger has no double click: its touch opens the row as a record.
        if ((e.nativeEvent as PointerEvent).pointerType === 'touch' && mark?.row !== undefined)
          acts.row(mark.row)
      }}
      onDoubleClick={() => mark?.row !== undefined && acts.row(mark.row)}
    >
      {named && (
        <div
          role={group ? 'rowheader' : 'gridcell'}
          className={classes.name}
          style={{
            paddingLeft: `${0.4 + Math.max((mark?.level ?? sheet.levels.length + 1) - 1, 0) * 1.1}rem`,
          }}
        >
          {group && (
            <Name
              sheet={sheet}
              mark={mark}
              foldable={mark.kind === 'group' && !deepest && (mark.level ?? 0) > 0}
              acts={acts}
            />
          )}
        </div>
      )}
      {wide && <span />}
      {columns.map((c, i) => {
        // Most cells are plain text, and while rows fly past each component counts.
        const onFigure = c && opens(of(sheet, c, mark?.measure))
        if (c?.entry && mark?.row !== undefined && data.cells[i] !== undefined)
          return (
            <EntryCell
              key={i}
              column={c}
              text={data.cells[i]}
              row={mark.row}
              at={i === cell}
              tone={data.tones[i]}
            />
          )
        if (c && (onFigure || c.opens || data.tones[i]))
          return (
            <Cell
              key={i}
              column={sheet.stacked ? { ...c, right: true } : c}
              text={data.cells[i]}
              links={data.links}
              tone={data.tones[i]}
              onFigure={onFigure}
              at={i === cell}
              row={
                c.opens && mark?.row !== undefined
                  ? { view: `${sheet.dataset}.rows`, number: mark.row }
                  : undefined
              }
            />
          )
        const text = data.cells[i]
        return (
          <div
            key={i}
            role="cell"
            data-at={i === cell || undefined}
            className={c?.right || sheet.stacked ? classes.right : undefined}
            data-long={(text && text.length > 14) || undefined}
            title={text && text.length > 24 ? text : undefined}
          >
            {text === undefined ? '…' : text}
          </div>
        )
      })}
      {sheet.blanks.map(b => (
        <div key={b} role="cell" className={classes.blank} />
      ))}
    </div>
  )
})

/** In a stacked crosstab the line tells which measure a cell is of. */
function of(sheet: Sheet, c: Column, measure: number | undefined) {
  return sheet.stacked && measure !== undefined ? { ...c, id: sheet.measures[measure] } : c
}

type NameProps = { sheet: Sheet; mark: Sheet['marks'][number]; foldable: boolean; acts: LineActs }

function Name({ sheet, mark, foldable, acts }: NameProps) {
  const measure =
    sheet.stacked && mark.measure !== undefined
      ? sheet.available.find(a => a.id === sheet.measures[mark.measure!])?.heading
      : undefined
  return (
    <>
      {foldable ? (
        <button
          type="button"
          tabIndex={-1}
          className={classes.fold}
          aria-label={`${mark.open ? 'Fold' : 'Unfold'} ${mark.name}`}
          onClick={e => (e.stopPropagation(), acts.fold(mark.path!))}
        >
          {mark.open ? '▾' : '▸'}
        </button>
      ) : (
        <span className={classes.fold} />
      )}
      <span className={classes.key}>{mark.name}</span>
      {measure && <span className="dim"> {measure}</span>}
      {!sheet.stacked && (
        <button
          type="button"
          tabIndex={-1}
          className={classes.size}
          title="Open the rows"
          onClick={e => (
            e.stopPropagation(),
            acts.figure(e.currentTarget, { path: mark.path!, across: '', of: '' })
          )}
        >
          {mark.size === undefined ? undefined : number(mark.size)}
        </button>
      )}
    </>
  )
}
