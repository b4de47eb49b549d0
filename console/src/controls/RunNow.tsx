import { Button, Checkbox, Group, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Control } from '../api/client'
import { valuesIn } from '../parts/valuesIn'
import classes from './ControlPage.module.css'
import { useRight } from '../signin/session'
import { useSaid } from './said'
import { TryButton } from './Trial'

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
  const mayRun = useRight('run')
  const said = useSaid(control, control.paused)
  const refused = run.error instanceof Refusal ? run.error.problem : undefined
  return (
    <>
      <p className={classes.terms} data-said>
        {said?.all} {said && capital(said.how)}.{control.shared && ` Shared with ${control.shared}.`}
      </p>
      {mayRun && (
        <Group align="flex-end">
          <Button data-run loading={run.isPending} onClick={() => run.mutate()}>
            Run
          </Button>
          <TryButton change={control} />
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
      )}
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

function capital(text: string) {
  return text.charAt(0).toUpperCase() + text.slice(1)
}
