import { Link } from 'react-router'
import type { CatalogLine } from '../api/client'
import { count, length, moment } from '../parts/said'
import classes from './CatalogRow.module.css'

type Props = { report: CatalogLine }

/** One report of the catalog: what it is for, how deep, when it last ran. */
export function CatalogRow({ report }: Props) {
  return (
    <li className={classes.row}>
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
