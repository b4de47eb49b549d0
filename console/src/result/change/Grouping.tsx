import { Button, Group, Popover, SegmentedControl, Select } from '@mantine/core'
import { useEffect, useState } from 'react'
import type { Sheet } from '../../api/client'
import type { Change, Reading } from '../reading'
import { dragged } from './dragging'
import { LevelSelect, type Choice } from './LevelSelect'

type Part = 'group' | 'down' | 'across' | 'cell'

type Props = { sheet: Sheet; reading: Reading; onChange: Change }

const partsOfDays = ['month', 'quarter', 'year', 'week', 'weekday']

/** What rows can be grouped by, what is likely first: texts, parts of days, and whatever else there is. */
function levels(sheet: Sheet): Choice[] {
  const columns = sheet.available.filter(c => c.rows)
  const isDay = (kind: string) => kind === 'date' || kind === 'timestamp'
  const itself = (kinds: (kind: string) => boolean) =>
    columns.filter(c => kinds(c.kind)).map(c => ({ value: c.id, label: c.heading }))
  const days = columns
    .filter(c => isDay(c.kind))
    .flatMap(c => partsOfDays.map(p => ({ value: `${p}(${c.id})`, label: `${c.heading}, by ${p}` })))
  return [
    ...itself(k => k === 'text'),
    ...days,
    ...itself(k => isDay(k)),
    ...itself(k => k !== 'text' && !isDay(k)),
  ]
}

/** How a view is shown and what it is grouped by: as a table, a crosstab or a chart. */
export function Grouping({ sheet, reading, onChange }: Props) {
  const offered = levels(sheet)
  const measures = sheet.available.filter(c => c.figure).map(c => ({ value: c.id, label: c.heading }))
  const choose = (part: Part, to: string[]) => {
    setOwn(o => ({ ...o, [part]: to }))
    onChange({ [part]: to })
  }
  const list = (part: Part, label: string, now: string[], data: Choice[], none: boolean) => (
    <LevelSelect
      part={part}
      label={label}
      value={now}
      offered={data}
      onChange={v => choose(part, v.length || !none ? v : ['none'])}
    />
  )
  const show = ['table', 'crosstab', 'chart'].includes(sheet.show) ? sheet.show : 'table'
  // What was chosen counts at once, while the address and the sheet for it are still on their way.
  const [own, setOwn] = useState<Partial<Record<Part, string[]>>>({})
  useEffect(
    () =>
      setOwn(o => {
        const open = Object.entries(o).filter(
          ([part, list]) => list.join('\n') !== reading[part as Part].join('\n'),
        )
        return open.length === Object.keys(o).length ? o : Object.fromEntries(open)
      }),
    [reading],
  )
  const chosen = (part: Part, shown: string[]) => {
    const list = own[part] ?? reading[part]
    return list.length ? list.filter(l => l !== 'none') : shown
  }
  const groups = chosen(
    'group',
    sheet.levels.map(l => l.text),
  )
  const down = chosen('down', sheet.down)
  const across = chosen(
    'across',
    sheet.across.map(a => a.text),
  )
  const cells = chosen('cell', sheet.measures)
  const turn = (to: string) => {
    const by = groups.length ? groups : sheet.down
    if (to === 'table')
      return onChange({ show: [to], group: by.length ? by : ['none'], down: [], across: [], cell: [] })
    const cell = sheet.measures.length
      ? sheet.measures
      : sheet.columns
          .filter(c => c.figure)
          .slice(0, 1)
          .map(c => c.id)
    const first = by.length
      ? by
      : [sheet.available.find(c => c.rows && c.kind === 'text')?.id ?? sheet.available[0].id]
    if (to === 'crosstab')
      return onChange({
        show: [to],
        down: first.slice(0, 1),
        across: first.slice(1).length ? first.slice(1) : ['none'],
        cell: cell.length ? cell : measures.slice(0, 1).map(m => m.value),
      })
    onChange({
      show: [to],
      group: first.slice(0, 2),
      cell: cell.length ? cell.slice(0, 1) : measures.slice(0, 1).map(m => m.value),
    })
  }
  const drop = (text: string) => {
    if (!text || groups.includes(text)) return
    onChange(show === 'crosstab' ? { down: [...down, text] } : { group: [...groups, text] })
  }
  return (
    <Popover position="bottom-start" trapFocus shadow="md" width={340}>
      <Popover.Target>
        <Button
          size="compact-sm"
          variant="subtle"
          title="Drop a heading here to group by it"
          onDragOver={e => e.dataTransfer.types.includes(dragged) && e.preventDefault()}
          onDrop={e => drop(e.dataTransfer.getData(dragged))}
          data-group-bar
        >
          Group
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <SegmentedControl
          size="xs"
          fullWidth
          value={show}
          onChange={turn}
          data={[
            { value: 'table', label: 'Table' },
            { value: 'crosstab', label: 'Crosstab' },
            { value: 'chart', label: 'Chart' },
          ]}
        />
        {show === 'crosstab' ? (
          <>
            {list('down', 'Down', down, offered, true)}
            {list('across', 'Across', across, offered, true)}
            {list('cell', 'Cells', cells, measures, false)}
          </>
        ) : (
          <>
            {list(
              'group',
              show === 'chart' ? 'Drawn by' : 'Grouped by, outermost first',
              groups,
              offered,
              show === 'table',
            )}
            {show === 'chart' && list('cell', 'Measures', cells, measures, false)}
          </>
        )}
        <Group gap={8} mt={6} align="flex-end">
          {show === 'chart' && (
            <Select
              size="xs"
              w={110}
              label="Form"
              data={['bar', 'line', 'area', 'pie']}
              value={sheet.drawn || 'bar'}
              onChange={v => v && onChange({ drawn: [v] })}
              comboboxProps={{ withinPortal: false }}
            />
          )}
          {show !== 'chart' && (groups.length > 0 || show === 'crosstab') && (
            <Select
              size="xs"
              w={140}
              label="Unfolded"
              data={[
                ...levelNames(groups.length),
                ...(show === 'table' ? [{ value: `${groups.length + 1}`, label: 'to the rows' }] : []),
              ]}
              value={reading.open[0] ?? (sheet.open >= 0 ? `${sheet.open}` : null)}
              onChange={v => onChange({ open: v ? [v] : [], fold: [] })}
              placeholder="as fits"
              clearable
              comboboxProps={{ withinPortal: false }}
            />
          )}
          <Select
            size="xs"
            w={110}
            label="First level"
            data={[
              { value: '0', label: 'all' },
              ...[5, 10, 20, 50].map(n => ({ value: `${n}`, label: `top ${n}` })),
            ]}
            value={`${sheet.most}`}
            onChange={v => v && onChange({ most: [v] })}
            comboboxProps={{ withinPortal: false }}
          />
        </Group>
        <Group gap={8} mt={6}>
          <Select
            size="xs"
            w={140}
            label="Zero lines"
            data={[
              { value: 'show', label: 'shown' },
              { value: 'omit', label: 'left out' },
            ]}
            value={sheet.zeros}
            onChange={v => v && onChange({ zeros: [v] })}
            comboboxProps={{ withinPortal: false }}
          />
          {sheet.coded && (
            <Select
              size="xs"
              w={140}
              label="Shown as"
              data={['names', 'codes', 'both']}
              value={sheet.names}
              onChange={v => v && onChange({ names: [v] })}
              comboboxProps={{ withinPortal: false }}
            />
          )}
        </Group>
      </Popover.Dropdown>
    </Popover>
  )
}

function levelNames(n: number) {
  return Array.from({ length: n }, (_, i) => ({
    value: `${i + 1}`,
    label: i === 0 ? '1 level' : `${i + 1} levels`,
  }))
}
