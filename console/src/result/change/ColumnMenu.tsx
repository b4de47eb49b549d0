import { Popover } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useContext } from 'react'
import type { Column, Sheet } from '../../api/client'
import type { Change, Reading } from '../reading'
import { OriginContext } from '../side/origin'
import type { SetWidth } from '../sheet/widths'
import { FilterBox, useValues } from './ColumnFilter'
import classes from './ColumnMenu.module.css'
import { groupOf } from './dragging'

type Props = {
  result: string
  sheet: Sheet
  reading: Reading
  column: Column
  /** Its width now, in characters, and that of its content; none where it is not its own. */
  width: { now: number; fit: number } | undefined
  onWidth: SetWidth
  onChange: Change
}

/** All that can be done with one column, behind a small button of its heading; its filter with it. */
export function ColumnMenu(props: Props) {
  const { sheet, column } = props
  const [open, { close, toggle }] = useDisclosure(false)
  const active = sheet.filters.some(f => f.column === column.id)
  const filterable = sheet.available.find(a => a.id === column.id)?.rows
  return (
    <Popover opened={open} onDismiss={close} position="bottom-end" trapFocus shadow="md" width={300}>
      <Popover.Target>
        <button
          type="button"
          className={classes.opener}
          data-active={active || undefined}
          data-filter={column.id}
          aria-label={`${column.heading}: sort, filter and more`}
          aria-expanded={open}
          onClick={toggle}
        >
          ▾
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        {open && (
          <>
            <Acts {...props} rows={filterable ?? false} onDone={close} />
            {filterable && <FilterBox {...props} onDone={close} />}
          </>
        )}
      </Popover.Dropdown>
    </Popover>
  )
}

/** What numbers have beside their sum, by the total and the formula that compute it of rows. */
const statistics = { average: 'avg', median: 'median', least: 'min', most: 'max' }

type ActsProps = Props & { rows: boolean; onDone: () => void }

function Acts({ result, sheet, reading, column: c, width, rows, onWidth, onChange, onDone }: ActsProps) {
  const origin = useContext(OriginContext)
  const number = ['integer', 'decimal', 'money'].includes(c.kind)
  const values = useValues(result, sheet, reading, c.id, '', rows && number)
  const levels = sheet.levels.map(l => l.text)
  const others = sheet.shown.filter(id => id !== c.id)
  const act = (label: string, does: () => void, stays = false, as = label) => (
    <button
      key={label}
      data-act={as}
      type="button"
      onClick={() => {
        does()
        if (!stays) onDone()
      }}
    >
      {label}
    </button>
  )
  const group = (label: string, text: string) =>
    levels.includes(text) ? null : act(label, () => onChange({ group: [...levels, text] }))
  const statistic = ([name, formula]: [string, string]) =>
    act(name, () =>
      onChange({
        add: [...reading.add, `${c.label}, ${name} = ${formula}(${c.id})`],
        column: reading.column,
      }),
    )
  const total = ([name, op]: [string, string]) =>
    act(
      name,
      () => onChange({ total: [...reading.total.filter(t => !t.startsWith(`${c.id}:`)), `${c.id}:${op}`] }),
      false,
      `total ${name}`,
    )
  const totals = number ? { sum: 'sum', ...statistics } : { count: 'count', different: 'distinct' }
  return (
    <div className={classes.acts} role="group" aria-label={`What to do with ${c.heading}`}>
      <span className={classes.row}>
        Sort
        {act('upwards', () => onChange({ sort: [c.id] }))}
        {act('downwards', () => onChange({ sort: [`-${c.id}`] }))}
      </span>
      {rows && !number && group('Group by it', c.id)}
      {rows && !number && groupOf(c) !== c.id && group('Group by its month', groupOf(c)!)}
      {values.data?.bands && group('Group in bands of it', values.data.bands)}
      {others.length > 0 && act('Leave it out', () => onChange({ column: others }))}
      {act('Where it comes from', () => origin(`${sheet.dataset}.${c.id}`))}
      {rows && sheet.show === 'table' && (
        <span className={classes.row}>Total as {Object.entries(totals).map(total)}</span>
      )}
      {rows && number && (
        <span className={classes.row}>Also show {Object.entries(statistics).map(statistic)}</span>
      )}
      {width && (
        <span className={classes.row}>
          Width
          {act('narrower', () => onWidth(c.id, width.now - 3), true)}
          {act('wider', () => onWidth(c.id, width.now + 3), true)}
          {act('as its content', () => onWidth(c.id, width.fit), true)}
        </span>
      )}
      {c.about && <p className={classes.about}>{c.about}</p>}
    </div>
  )
}
