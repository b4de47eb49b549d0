import { Button, Group, Modal } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type ControlRun } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { Again } from '../controls/Again'
import { moment } from '../parts/said'
import { useMayChange } from '../signin/session'
import { at } from '../api/below'
import { number } from '../parts/form'

/** What is due, what ran by timetable, and what did not. */
export function TimetablePage() {
  const client = useQueryClient()
  const mayChange = useMayChange()
  const timetable = useQuery({
    queryKey: ['timetable', 100],
    queryFn: () => answer(api.GET('/timetable', { params: { query: { limit: 100 } } })),
    refetchInterval: 10_000,
  })
  const pause = useMutation({
    mutationFn: (to: { control: string; paused: boolean }) =>
      answer(
        api.PUT('/controls/{control}/pause', {
          params: { path: { control: to.control } },
          body: { paused: to.paused },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['timetable'] }),
  })
  const feed = useMutation({ mutationFn: () => answer(api.POST('/timetable/feed')) })
  if (timetable.error) return <Failure error={timetable.error} again={() => timetable.refetch()} />
  const t = timetable.data
  if (!t) return null
  return (
    <>
      <List
        title="Timetable"
        heads={['Due', 'Run control', 'When', 'Owner', '']}
        tools={
          <Button size="xs" variant="default" onClick={() => feed.mutate()}>
            For my calendar
          </Button>
        }
        empty={
          t.due.length === 0 && (
            <State
              title="Nothing is due"
              said="Give a run control a timetable, and it runs by itself."
              next={<Link to="/controls">To the run controls</Link>}
            />
          )
        }
      >
        {t.due.map(c => (
          <tr key={c.id}>
            <td>{c.paused ? 'paused' : moment(c.nextRun)}</td>
            <td>
              <Link to={`/controls/${c.id}`}>{c.title}</Link>
            </td>
            <td>
              {c.says} at {c.timetable?.at}
            </td>
            <td>{c.owner}</td>
            <td>
              {mayChange(c.owner) && (
                <button className="act" onClick={() => pause.mutate({ control: c.id, paused: !c.paused })}>
                  {c.paused ? 'Go on' : 'Pause'}
                </button>
              )}
            </td>
          </tr>
        ))}
      </List>
      {t.ran.length > 0 && (
        <List further title="Ran" heads={['Moment', 'Run control', 'Part', 'Runs', 'Sent']}>
          {t.ran.map(r => (
            <tr key={r.id}>
              <td>{moment(r.moment)}</td>
              <td>
                <Link to={`/controls/${r.control}`}>{r.control}</Link>
              </td>
              <td>{r.part}</td>
              <td style={{ whiteSpace: 'normal' }}>
                <Group gap={10}>
                  {r.runs.map(x => (
                    <Link key={x.id} to={x.result ? `/results/${x.result}` : `/runs/${x.id}`}>
                      {x.state === 'done' ? `${x.title}, ${number(x.rows)} rows` : `${x.title} ${x.state}`}
                    </Link>
                  ))}
                </Group>
              </td>
              <td data-state={sending(r)} style={{ whiteSpace: 'normal' }}>
                {said(r)}
                <Again of={r} owner={r.askedBy} />
              </td>
            </tr>
          ))}
        </List>
      )}
      {t.notes.length > 0 && (
        <List further title="Did not run" heads={['Moment', 'Run control', '', 'Why']}>
          {t.notes.map(n => (
            <tr key={n.control + n.moment}>
              <td>{moment(n.moment)}</td>
              <td>
                <Link to={`/controls/${n.control}`}>{n.control}</Link>
              </td>
              <td data-state={n.state === 'refused' ? 'failed' : undefined}>{n.state}</td>
              <td style={{ whiteSpace: 'normal' }}>{n.reason}</td>
            </tr>
          ))}
        </List>
      )}
      <Modal opened={feed.isSuccess} onClose={() => feed.reset()} title="For a calendar program">
        <p>Subscribe to this address. It is secret, and takes the place of an earlier one.</p>
        <code style={{ overflowWrap: 'anywhere' }}>
          {feed.data && window.location.origin + at(feed.data.path)}
        </code>
      </Modal>
    </>
  )
}

function sending(r: ControlRun) {
  return r.sending === 'done' || r.sending === 'none' ? undefined : r.sending
}

function said(r: ControlRun) {
  const words = { done: 'sent', none: 'not sent', failed: 'not sent', waiting: 'waits' }
  const parts = [r.sending && words[r.sending], r.sentNote].filter(Boolean)
  return parts.length > 0 && `${parts.join(': ')} `
}
