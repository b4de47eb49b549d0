import { Button, Group, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Control } from '../api/client'
import classes from './ControlPage.module.css'

type Props = { control: Control; onRun: () => void }

/** Runs a control with one click; other values may be given for this once. */
export function RunNow({ control, onRun }: Props) {
  const [other, setOther] = useState('')
  const run = useMutation({
    mutationFn: () => answer(api.POST('/controls/{control}/runs', { params: { path: { control: control.id } }, body: { values: overrides(other) } })),
    onSuccess: () => (setOther(''), onRun()),
  })
  const refused = run.error instanceof Refusal ? run.error.problem : undefined
  return (
    <>
      <p className={classes.terms}>
        {control.steps.map((s) => s.report).join(', then ')}. {control.hours && `Starts within ${control.hours}. `}
        {control.empty === 'fail' && 'An empty result counts as failed. '}{control.keepDays > 0 && `Results are kept for ${control.keepDays} days. `}
        {control.shared && `Shared with ${control.shared}.`}
      </p>
      <Group align="flex-end">
        <Button data-run loading={run.isPending} onClick={() => run.mutate()}>Run</Button>
        <TextInput name="other-values" label="Other values for this once" placeholder="received=2026-08; intake-lots.unit=Marr" w="28rem" maw="100%" value={other} onChange={(e) => setOther(e.currentTarget.value)} />
      </Group>
      {run.error && <p className={classes.wrong} role="alert">{refused?.fields.length ? refused.fields.map((f) => `${f.field}: ${f.message}`).join('\n') : run.error.message}</p>}
    </>
  )
}

/** NAME=VALUE pairs with semicolons between; a piece without a name belongs to the value before it. */
function overrides(text: string): Record<string, string> {
  const values: Record<string, string> = {}
  let last = ''
  for (const piece of text.split(';').map((p) => p.trim()).filter(Boolean)) {
    const at = piece.indexOf('=')
    if (at > 0) values[(last = piece.slice(0, at).trim())] = piece.slice(at + 1).trim()
    else if (last) values[last] += '; ' + piece
  }
  return values
}
