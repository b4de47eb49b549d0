import { Button, Group } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { answer, api, type Result } from '../../api/client'
import type { Filling } from '../../report/form/useForm'
import { useRight } from '../../signin/session'
import classes from './EarlierValues.module.css'

type Props = { result: Result; filling: Filling }

function told(f: Result['facts'][number]) {
  return f.says || `${f.label.toLowerCase()} ${f.typed || 'not given'}`
}

/**
 * Says plainly, once the form was changed, that the rows on screen belong to the earlier values, and
 * what differs.
 */
export function EarlierValues({ result, filling }: Props) {
  const navigate = useNavigate()
  const mayRun = useRight('run')
  const { resolution, faults, values } = filling
  const run = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/runs', {
          params: { header: { 'Idempotency-Key': crypto.randomUUID() } },
          body: { report: result.report, values },
        }),
      ),
    onMutate: filling.ask,
    onSuccess: r => navigate(`/runs/${r.id}`),
  })
  const compare = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/comparisons', {
          body: { before: { result: result.id }, after: { report: result.report, values } },
        }),
      ),
    onMutate: filling.ask,
    onSuccess: r => navigate(`/runs/${r.id}`),
  })
  const error = run.error ?? compare.error
  const was = (id: string) => result.facts.find(f => f.parameter === id)
  const differs = resolution?.facts.filter(f => f.resolved !== (was(f.parameter)?.resolved ?? '')) ?? []
  if (faults.length === 0 && differs.length === 0)
    return (
      <p className={classes.same}>
        The form says what this result says. Change a value and run to get another one.
      </p>
    )
  return (
    <div className={classes.earlier} role="status" data-earlier>
      <div>
        <strong>These rows belong to the earlier values.</strong>
        {faults.length > 0 ? (
          <p>
            {faults.length === 1
              ? 'One value of the form is not right.'
              : `${faults.length} values of the form are not right.`}
          </p>
        ) : (
          <ul>
            {differs.map(f => (
              <li key={f.parameter}>
                The form: {told(f)}. The rows: {told(was(f.parameter) ?? { ...f, says: '', typed: '' })}.
              </li>
            ))}
          </ul>
        )}
        {resolution?.kept && (
          <p>
            The result of the new values is kept already:{' '}
            <Link to={`/results/${resolution.kept.id}`}>{resolution.kept.id}</Link>.
          </p>
        )}
        {error && <p className={classes.wrong}>{error.message}</p>}
      </div>
      {mayRun && (
        <Group gap="xs" wrap="nowrap">
          <Button
            variant="light"
            disabled={faults.length > 0}
            loading={compare.isPending}
            onClick={() => compare.mutate()}
          >
            Run and compare
          </Button>
          <Button data-run disabled={faults.length > 0} loading={run.isPending} onClick={() => run.mutate()}>
            Run
          </Button>
        </Group>
      )}
    </div>
  )
}
