import type { Sheet } from '../api/client'
import classes from './Head.module.css'

type Props = { sheet: Sheet; template: string; onSort: (sort: string[]) => void }

/** The headings. A click sorts by the column, a second one the other way, a third as the view was made; with Shift the column is added to the sort. */
export function Head({ sheet, template, onSort }: Props) {
  const press = (id: string, add: boolean) => {
    const now = sheet.sort.find((k) => k === id || k === `-${id}`)
    const next = now === undefined ? id : now === id ? `-${id}` : undefined
    const others = add ? sheet.sort.filter((k) => k !== now) : []
    onSort(next ? [...others, next] : others)
  }
  return (
    <div role="row" className={classes.head} style={{ gridTemplateColumns: template }}>
      {sheet.columns.map((c) => {
        const at = sheet.sort.findIndex((k) => k === c.id || k === `-${c.id}`)
        const down = at >= 0 && sheet.sort[at].startsWith('-')
        return (
          <div key={c.id} role="columnheader" aria-sort={at < 0 ? 'none' : down ? 'descending' : 'ascending'}>
            <button type="button" className={c.right ? classes.right : classes.left} data-sort={c.id} title={`Sort by ${c.label}`} onClick={(e) => press(c.id, e.shiftKey)}>
              {c.heading}
              {at >= 0 && <span className={classes.way}>{down ? '▾' : '▴'}{sheet.sort.length > 1 ? at + 1 : ''}</span>}
            </button>
          </div>
        )
      })}
    </div>
  )
}
