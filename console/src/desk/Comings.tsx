import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api } from '../api/client'
import { OtherDays } from '../runs/OtherDays'
import { moment } from '../parts/said'
import classes from './Desk.module.css'

/** At the right of the desk: what one likes, what is due, and what ran last. */
export function Comings() {
  const timetable = useQuery({
    queryKey: ['timetable', 12],
    queryFn: () => answer(api.GET('/timetable', { params: { query: { limit: 12 } } })),
    refetchInterval: 30_000,
  })
  const runs = useQuery({
    queryKey: ['runs', 'desk'],
    queryFn: () => answer(api.GET('/runs', { params: { query: { limit: 8 } } })),
    refetchInterval: 30_000,
  })
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const favourites = catalog.data?.reports.filter(r => r.favourite) ?? []
  return (
    <aside className={classes.side} aria-label="What is due and what ran">
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
              {!r.how && <OtherDays report={r.report} title={r.title} values={r.values} />}
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
