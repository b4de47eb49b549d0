import { Link, useParams } from 'react-router'
import type { Column } from '../../api/client'
import classes from './Grid.module.css'

type Props = {
  column: Column
  text: string | null | undefined
  links: string[] | undefined
  tone: string
  /** Opens the figure that the cell is; cells of rows are none. */
  onFigure?: (at: HTMLElement) => void
  /** It stands outside a table: in a form, beside a bar. */
  alone?: boolean
  /** It is the cell that the keyboard is at. */
  at?: boolean
  /** The row that it stands in, as the view of all rows numbers it. */
  row?: { view: string; number: number }
}

/**
 * One cell: text as the service wrote it, a link where the column opens something, a button where it
 * is a figure that opens.
 */
export function Cell({ column, text, links, tone, onFigure, alone, at, row }: Props) {
  const inner = () => {
    if (text === undefined) return '…'
    if (!text) return text
    if (onFigure)
      return (
        <button
          type="button"
          tabIndex={alone ? undefined : -1}
          className={classes.figure}
          onClick={e => onFigure(e.currentTarget)}
        >
          {text}
        </button>
      )
    if (!column.opens || !links) return text
    const { address } = column.opens
    if (address)
      return (
        <a
          tabIndex={alone ? undefined : -1}
          href={filled(address, column.opens, links)}
          target="_blank"
          rel="noreferrer"
        >
          {text}
        </a>
      )
    return (
      <ReportLink alone={alone} column={column} opens={column.opens} links={links} row={row}>
        {text}
      </ReportLink>
    )
  }
  return (
    <div
      role={alone ? undefined : 'cell'}
      data-at={at || undefined}
      className={column.right ? classes.right : undefined}
      data-tone={tone || undefined}
      data-long={(text && text.length > 14) || undefined}
      title={text && text.length > 24 ? text : undefined}
    >
      {inner()}
    </div>
  )
}

type LinkProps = Pick<Props, 'alone' | 'column' | 'row'> & { opens: Opens; links: string[]; children: string }

/** Opens a report with values of the row; beside them it says which row that is, for who may not choose values. */
function ReportLink({ alone, column, opens, links, row, children }: LinkProps) {
  const { result } = useParams()
  const from = opens.readers && result && row ? `#${result}/${row.view}/${row.number}/${column.id}` : ''
  return (
    <Link tabIndex={alone ? undefined : -1} to={`/open/${opens.report}?${target(opens, links)}${from}`}>
      {children}
    </Link>
  )
}

type Opens = NonNullable<Column['opens']>

function target(opens: Opens, links: string[]) {
  const params = new URLSearchParams(opens.fixed)
  for (const [parameter, place] of Object.entries(opens.with)) params.set(parameter, links[place])
  return params
}

function filled(address: string, opens: Opens, links: string[]) {
  return address.replace(/\{(\w+)\}/g, (_, id: string) => encodeURIComponent(links[opens.with[id]] ?? ''))
}
