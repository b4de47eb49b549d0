import type { Sheet } from '../../api/client'
import { Cell } from './Cell'
import classes from './Grid.module.css'
import type { Layout } from './layout'
import type { Sight } from './pages'

export type OnFigure = (at: HTMLElement, cell: { path: string; across: string; of: string }) => void

type Props = {
  sheet: Sheet
  layout: Layout
  sight: Sight
  line: number
  first: number
  last: number
  template: string
  height: number
  inHand: boolean
  onHand: (line: number, row: number | undefined) => void
  onRow: (row: number) => void
  onFold: (path: string) => void
  onFigure: OnFigure
}

/** One line: a row, a group with its figures, or a line of a crosstab. */
export function Line({ sheet, layout, sight, line, first, last, template, height, inHand, onHand, onRow, onFold, onFigure }: Props) {
  const mark = sight.mark(line)
  const group = mark !== undefined && mark.kind !== 'row'
  const crosstab = sheet.show === 'crosstab'
  const opens = (c: { id: string; path: string; figure?: boolean }) =>
    group && (crosstab || c.figure) ? (at: HTMLElement) => onFigure(at, { path: mark.path ?? '', across: c.path, of: c.id }) : undefined
  const last_ = mark?.level === sheet.levels.length && crosstab
  return (
    <div
      role="row" aria-rowindex={line + 2} aria-level={mark?.level} aria-expanded={group && mark.kind === 'group' && !last_ ? Boolean(mark.open) : undefined}
      className={classes.row} data-odd={line % 2 === 1 || undefined} data-kind={mark?.kind} data-level={group ? mark.level : undefined} data-tone={mark?.tone} data-hand={inHand || undefined}
      style={{ gridTemplateColumns: template, height }} onClick={() => onHand(line, mark?.row)} onDoubleClick={() => mark?.row !== undefined && onRow(mark.row)}
    >
      {layout.name > 0 && (
        <div role="rowheader" className={classes.name} style={{ paddingLeft: `${0.4 + Math.max((mark?.level ?? sheet.levels.length + 1) - 1, 0) * 1.1}rem` }}>
          {group && <Name sheet={sheet} mark={mark} foldable={mark.kind === 'group' && !last_ && (mark.level ?? 0) > 0} onFold={onFold} onFigure={onFigure} />}
        </div>
      )}
      {layout.wide && <span />}
      {layout.columns.slice(first, last).map((i) => {
        const c = sight.column(i)
        return c ? <Cell key={i} column={crosstab && sheet.stacked ? { ...c, right: true } : c} text={sight.cell(line, i)} links={sight.links(line)} tone={sight.tone(line, i)} onFigure={opens(of(sheet, c, mark?.measure))} /> : <div key={i} role="cell">…</div>
      })}
      {sheet.blanks.map((b) => <div key={b} role="cell" className={classes.blank} />)}
    </div>
  )
}

/** In a stacked crosstab the line tells which measure a cell is of. */
function of(sheet: Sheet, c: Sheet['columns'][number], measure: number | undefined) {
  return sheet.stacked && measure !== undefined ? { ...c, id: sheet.measures[measure] } : c
}

type NameProps = { sheet: Sheet; mark: Sheet['marks'][number]; foldable: boolean; onFold: (path: string) => void; onFigure: OnFigure }

function Name({ sheet, mark, foldable, onFold, onFigure }: NameProps) {
  const measure = sheet.stacked && mark.measure !== undefined ? sheet.available.find((a) => a.id === sheet.measures[mark.measure!])?.heading : undefined
  return (
    <>
      {foldable ? (
        <button type="button" className={classes.fold} aria-label={`${mark.open ? 'Fold' : 'Unfold'} ${mark.name}`} onClick={(e) => (e.stopPropagation(), onFold(mark.path!))}>{mark.open ? '▾' : '▸'}</button>
      ) : <span className={classes.fold} />}
      <span className={classes.key}>{mark.name}</span>
      {measure && <span className="dim"> {measure}</span>}
      {!sheet.stacked && <button type="button" className={classes.size} title="Open the rows" onClick={(e) => (e.stopPropagation(), onFigure(e.currentTarget, { path: mark.path!, across: '', of: '' }))}>{mark.size?.toLocaleString('en-GB')}</button>}
    </>
  )
}
