import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api } from '../api/client'
import { moment } from '../parts/said'
import classes from './Desk.module.css'

/** At the right of the desk: what is due, what needs one, and what ran last. */
export function Comings() {
  const timetable = useQuery({
    queryKey: ['timetable', 12],
    queryFn: () => answer(api.GET('/timetable', { params: { query: { limit: 12 } } })),
    refetchInterval: 30_000,
  })
  const failed = useQuery({
    queryKey: ['parcels', 'failed'],
    queryFn: () => answer(api.GET('/parcels', { params: { query: { state: 'failed', limit: 5 } } })),
    refetchInterval: 30_000,
  })
  const runs = useQuery({
    queryKey: ['runs', 'desk'],
    queryFn: () => answer(api.GET('/runs', { params: { query: { limit: 8 } } })),
    refetchInterval: 30_000,
  })
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const favourites = catalog.data?.reports.filter(r => r.favourite) ?? []
  const broken =
    timetable.data?.ran.filter(r => r.sending === 'failed' || r.runs.some(x => x.state === 'failed')) ?? []
  const notes = timetable.data?.notes.filter(n => n.state === 'refused') ?? []
  return (
    <aside className={classes.side} aria-label="What is due and what ran">
      {(broken.length > 0 || notes.length > 0 || (failed.data?.length ?? 0) > 0) && (
        <section>
          <h2>Needs you</h2>
          <ul>
            {broken.slice(0, 5).map(r => (
              <li key={r.id} data-state="failed">
                <Link to={`/controls/${r.control}`}>
                  {r.control} {r.part}
                </Link>{' '}
                <span>{r.sentNote || r.runs.find(x => x.state === 'failed')?.reason}</span>
              </li>
            ))}
            {notes.slice(0, 5).map(n => (
              <li key={n.control + n.moment} data-state="failed">
                <Link to={`/controls/${n.control}`}>{n.control}</Link> <span>{n.reason}</span>
              </li>
            ))}
            {failed.data?.map(p => (
              <li key={p.id} data-state="failed">
                <Link to={`/sending?parcel=${p.id}`}>{p.title}</Link> <span>{p.reason}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      {favourites.length > 0 && (
        <section>
          <h2>Favourites</h2>
          <ul>
            {favourites.slice(0, 8).map(r => (
              <li key={r.id}>
                <Link to={`/reports/${r.id}`}>{r.title}</Link>
              </li>
            ))}
          </ul>
        </section>
      )}
      <section>
        <h2>Due</h2>
        <ul>
          {timetable.data?.due.slice(0, 6).map(c => (
            <li key={c.id}>
              <Link to={`/controls/${c.id}`}>{c.title}</Link>{' '}
              <span>{c.paused ? 'paused' : moment(c.nextRun)}</span>
            </li>
          ))}
          {timetable.data?.due.length === 0 && <li className="dim">No run control has a timetable.</li>}
        </ul>
      </section>
      <section>
        <h2>Ran</h2>
        <ul>
          {runs.data?.map(r => (
            <li key={r.id} data-state={r.state}>
              <Link to={r.result ? `/results/${r.result}` : `/runs/${r.id}`}>{r.title}</Link>{' '}
              <span>{r.state === 'done' ? moment(r.askedAt) : r.state}</span>
            </li>
          ))}
          {runs.data?.length === 0 && (
            <li className="dim">
              Nothing yet. <Link to="/catalog">Choose a report</Link>
            </li>
          )}
        </ul>
      </section>
    </aside>
  )
}
