import { Children, type CSSProperties, type KeyboardEvent, type ReactNode } from 'react'
import classes from './Rows.module.css'

type Props = {
  /** The heads of the columns, '' for one of acts; none for a table that explains itself. */
  heads?: string[]
  /** Places of the columns whose cells end at the right. */
  right?: number[]
  caption?: ReactNode
  onKeyDown?: (e: KeyboardEvent<HTMLElement>) => void
  children: ReactNode
}

/**
 * A table of things, a row each; nothing where there are none. Where there is no room for columns, each
 * thing is a block of lines.
 */
export function Rows({ heads = [], right = [], caption, onKeyDown, children }: Props) {
  // A style sheet cannot read heads: each cell of a block says its own from here.
  const labels = Object.fromEntries(heads.map((h, i) => [`--head-${i + 1}`, JSON.stringify(h)]))
  if (Children.toArray(children).length === 0) return null
  return (
    <table className={classes.table} style={labels as CSSProperties} onKeyDown={onKeyDown}>
      {caption && <caption>{caption}</caption>}
      {heads.length > 0 && (
        <thead>
          <tr>
            {heads.map((h, i) =>
              h === '' ? (
                <td key={i} />
              ) : (
                <th key={h} scope="col" data-right={right.includes(i) || undefined}>
                  {h}
                </th>
              ),
            )}
          </tr>
        </thead>
      )}
      <tbody>{children}</tbody>
    </table>
  )
}
