import { Checkbox, Group, NumberInput, Select, TextInput } from '@mantine/core'
import type { ControlChange } from '../api/client'
import classes from './ControlPage.module.css'

type Props = {
  change: ControlChange
  onChange: (part: Partial<ControlChange>) => void
  fault: (part: string) => string | undefined
}

const outputs = ['kept', 'xlsx', 'pdf', 'csv', 'html', 'text', 'json', 'parquet'] as const

const empties = [
  { value: 'keep', label: 'kept like any other' },
  { value: 'note', label: 'kept, with a note' },
  { value: 'fail', label: 'treated as failed' },
]

/** What is made of each run of a control, and within which limits. */
export function HowForm({ change, onChange: set, fault }: Props) {
  return (
    <div className={classes.how}>
      <Checkbox.Group
        label="Wanted of each"
        value={change.outputs}
        onChange={o => set({ outputs: o as ControlChange['outputs'] })}
        error={fault('outputs')}
      >
        <Group mt={6}>
          {outputs.map(o => (
            <Checkbox key={o} value={o} label={o === 'kept' ? 'kept result' : o.toUpperCase()} />
          ))}
        </Group>
      </Checkbox.Group>
      <Select
        label="An empty result is"
        data={empties}
        value={change.empty}
        onChange={v => set({ empty: v as ControlChange['empty'] })}
        allowDeselect={false}
      />
      <Checkbox
        mt="xl"
        label="Compare with what was signed off"
        description="of the same values; people are told when the past has changed"
        checked={change.restate ?? false}
        onChange={e => set({ restate: e.currentTarget.checked })}
      />
      <TextInput
        name="hours"
        label="May start within"
        placeholder="any time, or 20:00-06:00"
        value={change.hours}
        onChange={e => set({ hours: e.currentTarget.value })}
        error={fault('hours')}
      />
      <NumberInput
        label="Rows at most"
        placeholder="the report's limit"
        min={0}
        hideControls
        thousandSeparator=","
        value={change.rows || ''}
        onChange={v => set({ rows: Number(v) || 0 })}
      />
      <NumberInput
        label="Seconds at most"
        placeholder="the report's limit"
        min={0}
        hideControls
        value={change.seconds || ''}
        onChange={v => set({ seconds: Number(v) || 0 })}
      />
      <NumberInput
        label="Results are kept for"
        placeholder="no end"
        suffix=" days"
        min={0}
        hideControls
        value={change.keepDays || ''}
        onChange={v => set({ keepDays: Number(v) || 0 })}
      />
    </div>
  )
}
