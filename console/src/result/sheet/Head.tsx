import { Tooltip } from '@mantine/core'
import { memo } from 'react'
import type { Column, Sheet } from '../../api/client'
import { ColumnMenu } from '../change/ColumnMenu'
import { dragged, groupOf } from '../change/dragging'
import type { Change, Reading } from '../reading'
import classes from './Head.module.css'
import { fitOf, type Layout } from './layout'
import { WidthGrip } from './WidthGrip'
import type { SetWidth } from './widths'

type Props = {
  result: string
  sheet: Sheet
  reading: Reading
  layout: Layout
  /** Places of the columns in sight, and these columns. */
  places: number[]
  columns: (Column | undefined)[]
  template: string
  folded: string[]
  onFold: (under: string) => void
  onWidth: SetWidth
  onChange: Change
}

/** The headings: groups of columns or the levels of a crosstab above, then the columns. */
export const Head = memo(function Head({
  result,
  sheet,
  reading,
  layout,
  places,
  columns,
  template,
  folded,
  onFold,
  onWidth,
  onChange,
}: Props) {
  const column = (i: number) => columns[places.indexOf(i)]
  const crosstab = sheet.show === 'crosstab'
  const name = layout.name > 0 && text(sheet.levels.map(l => l.label).join(' › ') || ' ')
  function text(t: string) {
    return (
      <div role="columnheader" className={classes.name}>
        {t}
      </div>
    )
  }
  const spans = (label: (i: number) => string) => {
    const out: { label: string; count: number; at: number }[] = []
    for (const i of places) {
      const l = label(i)
      if (out.length && out.at(-1)!.label === l) out.at(-1)!.count++
      else out.push({ label: l, count: 1, at: i })
    }
    return out
  }
  const band = (
    key: string,
    label: (i: number) => string,
    cell: (l: string) => React.ReactNode,
    named: React.ReactNode,
  ) => (
    <div key={key} role="row" className={classes.band} style={{ gridTemplateColumns: template }}>
      {layout.name > 0 && (
        <div role="presentation" className={classes.name}>
          {named}
        </div>
      )}
      {layout.wide && <span />}
      {spans(label).map(s => (
        <div
          key={s.at}
          role="columnheader"
          style={{ gridColumn: `span ${s.count}` }}
          className={classes.over}
          data-filled={s.label !== '' || undefined}
        >
          {cell(s.label.split('\x00').at(-1) ?? '')}
        </div>
      ))}
    </div>
  )
  const levels = crosstab ? sheet.across.length : 0
  const measures = !sheet.stacked && (sheet.measures.length > 1 || levels === 0)
  const under = !crosstab && sheet.columns.some(c => c.under)
  return (
    <div className={classes.head}>
      {under &&
        band(
          'under',
          i => column(i)?.under ?? '',
          l =>
            l && (
              <button type="button" aria-expanded={!folded.includes(l)} onClick={() => onFold(l)}>
                {folded.includes(l) ? '▸' : '▾'} {l}
              </button>
            ),
          '',
        )}
      {Array.from({ length: measures ? levels : levels - 1 }, (_, level) =>
        band(
          `${level}`,
          i => {
            const h = column(i)?.heads ?? []
            return level < h.length
              ? h.slice(0, level + 1).join('\x00')
              : level === h.length
                ? h.concat(levels === h.length ? '' : 'Total').join('\x00')
                : ''
          },
          l => l,
          level === 0 ? sheet.across.map(a => a.label).join(' › ') : '',
        ),
      )}
      <div role="row" className={classes.row} style={{ gridTemplateColumns: template }}>
        {name}
        {layout.wide && <span />}
        {places.map(i => {
          const c = column(i)
          if (!c)
            return (
              <div key={i} role="columnheader">
                …
              </div>
            )
          if (crosstab)
            return (
              <CrossHead
                key={i}
                text={measures ? c.heading : (c.heads.at(-1) ?? 'Total')}
                total={c.heads.length < levels}
              />
            )
          return (
            <Heading
              key={i}
              {...{ result, sheet, reading, onWidth, onChange }}
              column={c}
              // Many columns, of which some are in sight, are of one width.
              width={
                layout.wide
                  ? undefined
                  : { now: layout.widths[layout.columns.indexOf(i)], fit: fitOf(sheet, i) }
              }
            />
          )
        })}
        {sheet.blanks.map(b => (
          <div key={b} role="columnheader" className={classes.plain}>
            {b}
          </div>
        ))}
      </div>
    </div>
  )
})

function CrossHead({ text, total }: { text: string; total: boolean }) {
  return (
    <div role="columnheader" className={classes.cross} data-total={total || undefined}>
      {text}
    </div>
  )
}

/** What a heading means is told to the pointer and to the keyboard. */
const tipped = { hover: true, focus: true, touch: true }

type HeadingProps = {
  result: string
  sheet: Sheet
  reading: Reading
  column: Column
  width: { now: number; fit: number } | undefined
  onWidth: SetWidth
  onChange: Change
}

/**
 * A click sorts by the column, a second one the other way, a third as the view was made; with Shift
 * the column is added to the sort.
 */
function Heading({ result, sheet, reading, column: c, width, onWidth, onChange }: HeadingProps) {
  const press = (add: boolean) => {
    const now = sheet.sort.find(k => k === c.id || k === `-${c.id}`)
    const next = now === undefined ? c.id : now === c.id ? `-${c.id}` : undefined
    const others = add ? sheet.sort.filter(k => k !== now) : []
    onChange({ sort: next ? [...others, next] : others })
  }
  const at = sheet.sort.findIndex(k => k === c.id || k === `-${c.id}`)
  const group = sheet.available.find(a => a.id === c.id)?.rows ? groupOf(c) : undefined
  const down = at >= 0 && sheet.sort[at].startsWith('-')
  return (
    <div
      role="columnheader"
      aria-sort={at < 0 ? 'none' : down ? 'descending' : 'ascending'}
      className={classes.heading}
    >
      <Tooltip
        label={c.about}
        disabled={!c.about}
        multiline
        maw={320}
        openDelay={300}
        withArrow
        events={tipped}
      >
        <button
          type="button"
          className={c.right ? classes.right : classes.left}
          data-sort={c.id}
          data-about={c.about ? true : undefined}
          title={c.about ? undefined : `Sort by ${c.label}`}
          draggable={group !== undefined}
          onDragStart={e => group && e.dataTransfer.setData(dragged, group)}
          onClick={e => press(e.shiftKey)}
        >
          {c.heading}
          {at >= 0 && (
            <span className={classes.way}>
              {down ? '▾' : '▴'}
              {sheet.sort.length > 1 ? at + 1 : ''}
            </span>
          )}
        </button>
      </Tooltip>
      <ColumnMenu {...{ result, sheet, reading, column: c, width, onWidth, onChange }} />
      {width && <WidthGrip onWidth={w => onWidth(c.id, w)} onFit={() => onWidth(c.id, width.fit)} />}
    </div>
  )
}
