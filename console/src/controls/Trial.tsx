import { Button, Modal } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { Fragment } from 'react'
import { answer, api, Refusal, type ControlChange, type Schemas } from '../api/client'
import { count, moment } from '../parts/said'
import classes from './ControlPage.module.css'
import { number } from '../parts/form'

type Props = { change: ControlChange }

/** Shows what would come of a run control, kept or not: who would get what, and how many rows. */
export function TryButton({ change }: Props) {
  const trial = useMutation({ mutationFn: () => answer(api.POST('/controls/trial', { body: change })) })
  const refused = trial.error instanceof Refusal ? trial.error.problem : undefined
  return (
    <>
      <Button variant="default" loading={trial.isPending} onClick={() => trial.mutate()} data-try>
        Try it, without sending
      </Button>
      {trial.error && (
        <p className={classes.wrong} role="alert">
          {refused?.fields.length
            ? refused.fields.map(f => `${f.field}: ${f.message}`).join('\n')
            : trial.error.message}
        </p>
      )}
      <Modal
        opened={trial.data !== undefined}
        onClose={trial.reset}
        title="What would come of it now"
        size="64rem"
      >
        {trial.data && <Told trial={trial.data} />}
      </Modal>
    </>
  )
}

function Told({ trial }: { trial: Schemas['ControlTrial'] }) {
  const runs = trial.parts.reduce((n, p) => n + p.runs.length, 0)
  const people = new Set(trial.parts.flatMap(p => p.to.map(r => r.mail || r.name)))
  return (
    <div data-trial>
      <p>
        {count(runs, 'run', 'runs')}, for{' '}
        {people.size ? count(people.size, 'recipient', 'recipients') : 'nobody'}. Nothing was kept, and
        nothing was sent.
        {trial.next[0] && ` Next on ${moment(trial.next[0])}.`}
      </p>
      <table className={classes.past}>
        <thead>
          <tr>
            {trial.parts.length > 1 && <th scope="col">Part</th>}
            <th scope="col">Report</th>
            <th scope="col">Values</th>
            <th scope="col" className={classes.rows}>
              Rows
            </th>
            <th scope="col">To</th>
          </tr>
        </thead>
        <tbody>
          {trial.parts.map(p => (
            <Fragment key={p.name}>
              {p.runs.map((run, i) => (
                <tr key={run.report}>
                  {trial.parts.length > 1 && <td>{i === 0 && p.name}</td>}
                  <td>{run.title}</td>
                  <td>{run.sentence}</td>
                  <td className={run.failed ? classes.failed : classes.rows}>
                    {run.failed ?? (run.rows === undefined ? undefined : number(run.rows)) ?? 'not counted'}
                  </td>
                  <td>{i === 0 && (p.to.map(named).join(', ') || 'nobody')}</td>
                </tr>
              ))}
              {p.not.map(why => (
                <tr key={why}>
                  <td colSpan={5} className={classes.going}>
                    Gets nothing: {why}
                  </td>
                </tr>
              ))}
            </Fragment>
          ))}
        </tbody>
      </table>
    </div>
  )
}

function named(r: Schemas['TriedRecipient']) {
  return r.values ? `${r.name} (${r.values.join(', ')})` : r.name
}
