import { Link } from 'react-router'
import type { Column } from '../api/client'
import classes from './Grid.module.css'

type Props = { column: Column; text: string | null | undefined; links: string[] | undefined }

/** One cell: text as the service wrote it, a link where the column opens another report. */
export function Cell({ column, text, links }: Props) {
  const opens = column.opens
  return (
    <div role="cell" className={column.right ? classes.right : undefined} title={text && text.length > 24 ? text : undefined}>
      {text && opens && links ? <Link to={`/open/${opens.report}?${target(opens, links)}`}>{text}</Link> : text === undefined ? '…' : text}
    </div>
  )
}

function target(opens: NonNullable<Column['opens']>, links: string[]) {
  const params = new URLSearchParams(opens.fixed)
  for (const [parameter, place] of Object.entries(opens.with)) params.set(parameter, links[place])
  return params
}
