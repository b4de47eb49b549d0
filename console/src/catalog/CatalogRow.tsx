import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type CatalogLine } from '../api/client'
import { AskFor } from './AskFor'
import { count, length, moment } from '../parts/said'
import classes from './CatalogRow.module.css'

type Props = { report: CatalogLine }

/** One report of the catalog: what it is for, how deep, when it last ran. */
export function CatalogRow({ report }: Props) {
  const client = useQueryClient()
  const mark = useMutation({
    mutationFn: () => {
      const params = { path: { report: report.id } }
      return report.favourite
        ? answer(api.DELETE('/reports/{report}/favourite', { params }))
        : answer(api.PUT('/reports/{report}/favourite', { params }))
    },
    onSuccess: () => client.invalidateQueries({ queryKey: ['catalog'] }),
  })
  if (report.closed)
    return (
      <li className={classes.row}>
        <span className={classes.mark} data-closed aria-hidden>
          ☆
        </span>
        <div className={classes.link} data-closed>
          <span className={classes.title}>{report.title}</span>
          <span className={classes.depth}>{report.depth}</span>
          <span className={classes.about}>{report.about}</span>
          <span className={classes.used}>
            not open to you · <AskFor report={report.id} title={report.title} />
          </span>
        </div>
      </li>
    )
  return (
    <li className={classes.row}>
      <button
        type="button"
        className={classes.mark}
        aria-pressed={Boolean(report.favourite)}
        aria-label={`Favourite: ${report.title}`}
        title={report.favourite ? 'A favourite of yours' : 'Mark it as a favourite'}
        onClick={() => mark.mutate()}
      >
        {report.favourite ? '★' : '☆'}
      </button>
      <Link to={`/reports/${report.id}`} className={classes.link}>
        <span className={classes.title}>{report.title}</span>
        <span className={classes.depth}>{report.depth}</span>
        <span className={classes.about} data-state={report.broken && 'failed'}>
          {report.broken ? `It cannot be run until its text is mended: ${report.broken}` : report.about}
        </span>
        <span className={classes.used}>
          {report.found && `${report.found} · `}
          {report.lastRun
            ? `last run ${moment(report.lastRun)}, ${report.lastRows === undefined ? '' : `${count(report.lastRows, 'row', 'rows')} `}in ${length(report.lastSeconds ?? 0)}`
            : 'never run yet'}
        </span>
      </Link>
    </li>
  )
}
