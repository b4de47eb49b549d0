import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { answer, api, type Report } from '../api/client'
import { count, moment } from '../parts/said'
import classes from './ReportSide.module.css'
import { Columns } from './Columns'
import { Documents } from './Documents'
import { Files } from '../parts/files/Files'
import { Marks } from './Marks'
import { WriteTo } from '../parts/WriteTo'

type Props = {
  report: Report
  /** The source of the report, where the person may bring files for it. */
  filesOf: string | undefined
  children?: ReactNode
}

/** Beside the form: what is given, then the steps, companions, past results and versions. */
export function ReportSide({ report, filesOf, children }: Props) {
  const past = useQuery({
    queryKey: ['results', { report: report.id, limit: 6 }],
    queryFn: () => answer(api.GET('/results', { params: { query: { report: report.id, limit: 6 } } })),
  })
  const steps = report.guide
    .split('\n')
    .map(s => s.replace(/^\d+\.\s*/, ''))
    .filter(Boolean)
  return (
    <aside className={classes.side}>
      {children}
      {steps.length > 0 && (
        <section>
          <h2>Steps</h2>
          <ol>
            {steps.map(s => (
              <li key={s}>{s}</li>
            ))}
          </ol>
        </section>
      )}
      {report.companions.length > 0 && (
        <section>
          <h2>Companions</h2>
          <ul>
            {report.companions.map(c => (
              <li key={c.id}>
                <Link to={`/reports/${c.id}`}>{c.title}</Link>, {c.depth}
              </li>
            ))}
          </ul>
        </section>
      )}
      {filesOf && <Files source={filesOf} />}
      <section>
        <h2>Past results</h2>
        {past.data?.length === 0 && <p className={classes.none}>None are kept yet.</p>}
        <ul className={classes.past}>
          {past.data?.map(r => (
            <li key={r.id}>
              <Link to={`/results/${r.id}`}>{r.id}</Link> {moment(r.keptAt)}, {count(r.rows, 'row', 'rows')}
              <div className={classes.sentence}>{r.sentence}</div>
            </li>
          ))}
        </ul>
      </section>
      <Documents report={report.id} />
      <Columns report={report.id} />
      <Marks report={report.id} />
      <section>
        <h2>Versions</h2>
        <ul>
          {report.versions.map(v => (
            <li key={v.number}>
              {v.number}, since {moment(v.at)}
              {v.note && `: ${v.note}`}
            </li>
          ))}
        </ul>
      </section>
      <WriteTo report={report.id} />
    </aside>
  )
}
