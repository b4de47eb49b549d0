import { Button, Group, Progress } from '@mantine/core'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { answer, api, type Run } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { count, length } from '../parts/said'
import { formAddress } from './formAddress'
import { at } from '../api/below'

/** A run as it goes: waiting, running with its rows and time, and its end. A result opens by itself. */
export function RunPage() {
  const id = useParams().run!
  const navigate = useNavigate()
  const client = useQueryClient()
  const run = useQuery({
    queryKey: ['run', id],
    queryFn: () => answer(api.GET('/runs/{run}', { params: { path: { run: id } } })),
  })
  const known = run.isSuccess
  useEffect(() => {
    if (!known) return
    const events = new EventSource(at(`/api/runs/${id}/progress`))
    events.addEventListener('run', e => {
      const now = JSON.parse(e.data) as Run
      client.setQueryData(['run', id], now)
      if (['done', 'failed', 'stopped'].includes(now.state)) events.close()
    })
    return () => events.close()
  }, [id, known, client])
  const result = run.data?.state === 'done' ? run.data.result : undefined
  useEffect(() => {
    if (!result) return
    client.invalidateQueries({ queryKey: ['results'] })
    navigate(`/results/${result}`, { replace: true })
  }, [result, client, navigate])
  if (run.error) return <Failure error={run.error} again={() => run.refetch()} />
  if (!run.data) return null
  const { state, title, sentence, rows, expected, seconds, reason, note } = run.data
  const form = (
    <Button component={Link} to={formAddress(run.data)} variant="light">
      Open the form with these values
    </Button>
  )
  if (state === 'failed')
    return <State alone title={`${title} failed`} said={`${reason}\n${sentence}`} next={form} />
  if (state === 'stopped') return <State alone title={`${title} was stopped`} said={sentence} next={form} />
  if (state === 'done')
    return (
      <State
        alone
        title={`${title} is done`}
        said={result ? sentence : 'Its result was deleted.'}
        next={form}
      />
    )
  return (
    <State
      alone
      title={state === 'waiting' ? `${title} waits for its turn` : `${title} is running`}
      said={sentence}
      next={
        <>
          <Progress
            value={expected ? Math.min(99, (100 * rows) / expected) : 100}
            animated
            color="sea"
            aria-label="The run is under way"
            mb="sm"
          />
          <p className="figure" data-progress>
            {count(rows, 'row', 'rows')}
            {expected ? ` of about ${count(expected, '', '').trim()}` : ''} in {length(seconds)}
          </p>
          {note && (
            <p role="status" data-note>
              {note}
            </p>
          )}
          <Group justify="center">
            <Button
              variant="light"
              color="brick"
              onClick={() => api.POST('/runs/{run}/stop', { params: { path: { run: id } } })}
            >
              Stop
            </Button>
            <Button variant="subtle" component={Link} to="/runs">
              Let it run; see all runs
            </Button>
          </Group>
        </>
      }
    />
  )
}
