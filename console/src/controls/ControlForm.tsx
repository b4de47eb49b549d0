import { Button, Checkbox, Group, NumberInput, Select, TextInput } from '@mantine/core'
import type { ReactNode } from 'react'
import { Refusal, type ControlChange } from '../api/client'
import { useSession } from '../signin/session'
import classes from './ControlPage.module.css'
import { SendForm } from './SendForm'
import { StepForm } from './StepForm'
import { TimetableForm } from './TimetableForm'

type Props = {
  change: ControlChange
  onChange: (change: ControlChange) => void
  id: string
  onId?: (id: string) => void
  error: Error | null
  actions: ReactNode
}

const outputs = ['kept', 'xlsx', 'pdf', 'csv', 'html', 'text', 'json', 'parquet'] as const

const empties = [
  { value: 'keep', label: 'kept like any other' },
  { value: 'note', label: 'kept, with a note' },
  { value: 'fail', label: 'treated as failed' },
]

/** What a run control runs, in order, and how. */
export function ControlForm({ change, onChange, id, onId, error, actions }: Props) {
  const { who } = useSession()
  const set = (part: Partial<ControlChange>) => onChange({ ...change, ...part })
  const fault = (part: string) =>
    error instanceof Refusal ? error.problem.fields.find(f => f.field === part)?.message : undefined
  const step = (at: number) => ({
    change: (to: ControlChange['steps'][number]) =>
      set({ steps: change.steps.map((s, i) => (i === at ? to : s)) }),
    remove: () => set({ steps: change.steps.filter((_, i) => i !== at) }),
    up: () =>
      set({ steps: change.steps.map((s, i, all) => (i === at - 1 ? all[at] : i === at ? all[at - 1] : s)) }),
  })
  const general =
    error && !(error instanceof Refusal && error.problem.fields.length > 0) ? error.message : undefined
  return (
    <>
      <div className={classes.how}>
        <TextInput
          name="title"
          label="Title"
          required
          value={change.title}
          onChange={e => set({ title: e.currentTarget.value })}
          error={fault('name')}
        />
        <TextInput
          name="id"
          label="Id"
          description={onId ? 'for the command line' : undefined}
          value={id}
          disabled={!onId}
          onChange={e => onId?.(e.currentTarget.value)}
          error={fault('id')}
        />
        <Select
          label="Shared with"
          data={['', ...(who?.groups ?? []), 'everyone'].map(g => ({
            value: g,
            label: g || 'nobody: only mine',
          }))}
          value={change.shared}
          onChange={v => set({ shared: v ?? '' })}
          allowDeselect={false}
          error={fault('shared')}
        />
      </div>
      <h2 className={classes.h2}>Reports, in order</h2>
      <ol className={classes.steps}>
        {change.steps.map((s, i) => (
          <StepForm
            key={i}
            number={i + 1}
            step={s}
            error={fault(`steps.${i + 1}`)}
            onChange={step(i).change}
            onRemove={change.steps.length > 1 ? step(i).remove : undefined}
            onUp={i > 0 ? step(i).up : undefined}
          />
        ))}
      </ol>
      <Button
        size="xs"
        variant="light"
        mb="md"
        onClick={() => set({ steps: [...change.steps, { report: '', values: {} }] })}
      >
        Add a report
      </Button>
      <h2 className={classes.h2}>How they run</h2>
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
      <h2 className={classes.h2}>To whom, and when</h2>
      <SendForm change={change} onChange={set} fault={fault} />
      <TimetableForm timetable={change.timetable} onChange={timetable => set({ timetable })} fault={fault} />
      {general && <p className={classes.wrong}>{general}</p>}
      <Group>{actions}</Group>
    </>
  )
}
