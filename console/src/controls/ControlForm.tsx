import { Accordion, Button, Group, Select, TextInput } from '@mantine/core'
import { useState, type ReactNode } from 'react'
import { Refusal, type ControlChange } from '../api/client'
import { useSession } from '../signin/session'
import classes from './ControlPage.module.css'
import { HowForm } from './HowForm'
import { useSaid } from './said'
import { SendForm } from './SendForm'
import { StepForm } from './StepForm'
import { TimetableForm } from './TimetableForm'
import { TryButton } from './Trial'

type Part = 'what' | 'how' | 'to' | 'when'

type Props = {
  change: ControlChange
  onChange: (change: ControlChange) => void
  id: string
  onId?: (id: string) => void
  error: Error | null
  actions: ReactNode
}

/**
 * What a run control runs, how, to whom and when: steps that each say what they come to, and all of it in
 * a sentence above them.
 */
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
  const [open, setOpen] = useState(['what'])
  const said = useSaid(change)
  const faulty = error instanceof Refusal ? error.problem.fields.map(f => stepOf(f.field)) : []
  const part = (value: Part, title: string, says: string | undefined, form: ReactNode) => (
    <Accordion.Item value={value} data-part={value}>
      <Accordion.Control>
        <span className={classes.stepTitle}>{title}</span>{' '}
        <span className={faulty.includes(value) ? classes.wrong : 'dim'}>
          {faulty.includes(value) ? 'something is missing here' : says}
        </span>
      </Accordion.Control>
      <Accordion.Panel>{form}</Accordion.Panel>
    </Accordion.Item>
  )
  return (
    <>
      <p className={classes.all} data-said aria-live="polite">
        {said?.all}
      </p>
      <Accordion
        multiple
        variant="default"
        chevronPosition="left"
        value={[...new Set([...open, ...faulty])]}
        onChange={setOpen}
        mb="md"
      >
        {part(
          'what',
          'Which reports',
          said?.what,
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
          </>,
        )}
        {part(
          'how',
          'What is made of them',
          said?.how,
          <HowForm change={change} onChange={set} fault={fault} />,
        )}
        {part('to', 'To whom', said?.to, <SendForm change={change} onChange={set} fault={fault} />)}
        {part(
          'when',
          'When',
          said?.when,
          <TimetableForm
            timetable={change.timetable}
            onChange={timetable => set({ timetable })}
            fault={fault}
          />,
        )}
      </Accordion>
      {general && <p className={classes.wrong}>{general}</p>}
      <Group>
        {actions}
        <TryButton change={change} />
      </Group>
    </>
  )
}

/** The step of the form that a field is of. */
function stepOf(field: string): Part {
  if (/^(send|split)/.test(field)) return 'to'
  if (field.startsWith('timetable')) return 'when'
  return /^(outputs|hours|limits|keepDays|empty)/.test(field) ? 'how' : 'what'
}
