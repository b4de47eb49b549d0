import { Button, Group } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, api, Refusal } from '../api/client'
import { moment } from '../parts/said'
import { CompareDialog } from '../result/compare/CompareDialog'
import { useRight } from '../signin/session'
import type { Filling } from './form/useForm'
import classes from './RunFoot.module.css'

type Props = { filling: Filling; criteria?: string }

/** Always in sight below a form: what the values say, what is to be noted, and the way to run. */
export function RunFoot({ filling, criteria }: Props) {
  const { report, values, resolution, faults } = filling
  const navigate = useNavigate()
  const mayRun = useRight('run')
  const [comparing, setComparing] = useState(false)
  const run = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/runs', {
          params: { header: { 'Idempotency-Key': crypto.randomUUID() } },
          body: { report: report!.id, values, criteria },
        }),
      ),
    onMutate: filling.ask,
    onSuccess: r => navigate(`/runs/${r.id}`),
  })
  useHotkeys([['mod+Enter', () => mayRun && !filling.form?.refused && run.mutate()]], [])
  const refused = run.error instanceof Refusal ? run.error.problem : undefined
  const kept = resolution?.kept
  return (
    <footer className={classes.foot}>
      <div className={classes.said} aria-live="polite">
        <p className={classes.sentence} data-sentence>
          {faults.length > 0 ? (
            <span className={classes.wrong}>
              {faults.length === 1 ? 'One value is not right.' : `${faults.length} values are not right.`}
            </span>
          ) : (
            resolution?.sentence
          )}
          {refused && refused.fields.length === 0 && <span className={classes.wrong}> {refused.detail}</span>}
        </p>
        {faults.length === 0 &&
          resolution?.notes.map(n => (
            <p key={n} className={classes.note} data-note>
              {n}
            </p>
          ))}
        {faults.length === 0 && kept && (
          <p className={classes.note} data-kept={kept.id}>
            <Link to={`/results/${kept.id}`}>{kept.id}</Link> of {moment(kept.keptAt)} has these values, and
            its source has not changed since.
          </p>
        )}
      </div>
      {mayRun && !filling.form?.refused ? (
        <Group gap="xs" wrap="nowrap" data-acts>
          <Button
            size="md"
            variant="light"
            disabled={faults.length > 0}
            onClick={() => (filling.ask(), setComparing(true))}
          >
            Compare…
          </Button>
          <Button data-run size="md" loading={run.isPending} onClick={() => run.mutate()} title="Ctrl Enter">
            Run
          </Button>
        </Group>
      ) : (
        <span className="dim" data-refused>
          {mayRun ? filling.form?.refused : 'Running needs the role runner.'}
        </span>
      )}
      {comparing && (
        <CompareDialog
          report={report!.id}
          side={{ report: report!.id, values }}
          name="these values"
          onClose={() => setComparing(false)}
        />
      )}
    </footer>
  )
}
