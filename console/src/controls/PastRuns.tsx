import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type Control, type Run } from '../api/client'
import { length, moment } from '../parts/said'
import { Again } from './Again'
import classes from './ControlPage.module.css'
import { at } from '../api/below'
import { number } from '../parts/form'

type Props = { control: Control }

/**
 * The past runs of a control side by side: a line each, a column for every report, with rows, time and
 * what was wanted.
 */
export function PastRuns({ control }: Props) {
  const past = useQuery({
    queryKey: ['control-runs', control.id],
    queryFn: () =>
      answer(
        api.GET('/controls/{control}/runs', {
          params: { path: { control: control.id }, query: { limit: 30 } },
        }),
      ),
    refetchInterval: q =>
      q.state.data?.some(b => b.runs.some(underWay) || b.sending === 'waiting') ? 700 : false,
  })
  if (past.data?.length === 0) return <p className="dim">It has never run.</p>
  const titles = new Map(past.data?.flatMap(b => b.runs.map(r => [r.report, r.title] as const)))
  const reports = [...titles.keys()]
  return (
    <>
      <h2 className={classes.h2}>Past runs</h2>
      <table className={classes.past}>
        <thead>
          <tr>
            <th scope="col">Asked</th>
            {reports.map(r => (
              <th key={r} scope="col">
                {titles.get(r)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {past.data?.map(b => (
            <tr key={b.id}>
              <td>
                {moment(b.moment ?? b.askedAt)} {b.part && <strong>{b.part}</strong>}
                <div className="dim">
                  {b.moment ? 'by timetable' : b.askedBy}
                  {b.sending && `, ${sent[b.sending]}`} {b.sentNote}
                </div>
                <Again of={b} owner={control.owner} />
              </td>
              {reports.map(r => (
                <td key={r}>
                  {b.runs
                    .filter(x => x.report === r)
                    .map(x => (
                      <Cell key={x.id} run={x} control={control} />
                    ))}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  )
}

const sent = { waiting: 'to be sent', done: 'sent', none: 'not sent:', failed: 'not sent:' }

function underWay(r: Run) {
  return r.state === 'waiting' || r.state === 'running'
}

type CellProps = { run: Run; control: Control }

function Cell({ run, control }: CellProps) {
  const view = control.steps.find(s => s.report === run.report)?.view
  const files = control.outputs.filter(o => o !== 'kept')
  if (run.state === 'failed' || run.state === 'stopped')
    return (
      <div>
        <Link to={`/runs/${run.id}`} className={classes.failed}>
          {run.state}
        </Link>{' '}
        <span className="dim">{run.reason}</span>
      </div>
    )
  if (underWay(run))
    return (
      <div className={classes.going} data-progress>
        {run.state}, {number(run.rows)} rows
      </div>
    )
  return (
    <div>
      {run.result ? (
        <Link to={`/results/${run.result}${view ? `?view=${view}` : ''}`}>{number(run.rows)} rows</Link>
      ) : (
        `${number(run.rows)} rows, deleted`
      )}{' '}
      <span className="dim">{length(run.seconds)}</span>
      {run.result &&
        files.map(f => (
          <span key={f}>
            {' '}
            ·{' '}
            <a href={at(`/api/results/${run.result}/views/${view || '*'}/file?format=${f}`)} download>
              {f.toUpperCase()}
            </a>
          </span>
        ))}
      <div className="dim">
        {run.note} {run.sentence}
      </div>
    </div>
  )
}
