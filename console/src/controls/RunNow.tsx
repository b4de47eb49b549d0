import { Button, Checkbox, Group, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Control } from '../api/client'
import { valuesIn } from '../parts/valuesIn'
import { moment } from '../parts/said'
import classes from './ControlPage.module.css'

type Props = { control: Control; onRun: () => void }

/** Runs a control with one click; other values may be given for this once. */
export function RunNow({ control, onRun }: Props) {
  const [other, setOther] = useState('')
  const [send, setSend] = useState(false)
  const run = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/controls/{control}/runs', {
          params: { path: { control: control.id } },
          body: { values: valuesIn(other), send },
        }),
      ),
    onSuccess: () => (setOther(''), onRun()),
  })
  const refused = run.error instanceof Refusal ? run.error.problem : undefined
  return (
    <>
      <p className={classes.terms}>
        {control.steps.map(s => s.report).join(', then ')}.{' '}
        {control.hours && `Starts within ${control.hours}. `}
        {control.empty === 'fail' && 'An empty result counts as failed. '}
        {control.restate && 'Each result is compared with the last that was signed off. '}
        {control.keepDays > 0 && `Results are kept for ${control.keepDays} days. `}
        {control.shared && `Shared with ${control.shared}. `}
        {control.says &&
          `Due ${control.says} at ${control.timetable?.at}; ${control.paused ? 'paused' : `next ${moment(control.nextRun)}`}. `}
        {control.send && said(control)}
      </p>
      <Group align="flex-end">
        <Button data-run loading={run.isPending} onClick={() => run.mutate()}>
          Run
        </Button>
        <TextInput
          name="other-values"
          label="Other values for this once"
          placeholder="received=2026-08; intake-lots.unit=Marr"
          w="28rem"
          maw="100%"
          value={other}
          onChange={e => setOther(e.currentTarget.value)}
        />
        {control.send && (
          <Checkbox
            mb={9}
            label="Send what it gives"
            checked={send}
            onChange={e => setSend(e.currentTarget.checked)}
          />
        )}
      </Group>
      {run.error && (
        <p className={classes.wrong} role="alert">
          {refused?.fields.length
            ? refused.fields.map(f => `${f.field}: ${f.message}`).join('\n')
            : run.error.message}
        </p>
      )}
    </>
  )
}

/** To whom a control sends what it gives, in words. */
function said({ send, split, outputs }: Control) {
  const files = outputs
    .filter(o => o !== 'kept')
    .map(o => o.toUpperCase())
    .join(' and ')
  const who = [...(send?.to ?? []), ...(send?.copy ?? []), ...(send?.blind ?? [])].join(', ')
  const parts = split?.units
    ? ` one for each ${split.units}, to those who stand for it`
    : split?.column
      ? ` one for each ${split.column}`
      : ''
  return `Sends ${files || 'a message'}${parts}${who && ` to ${who}`}${send?.when ? `, when ${send.when}` : ''}.`
}
