import { memo } from 'react'
import type { Column, Sheet } from '../../api/client'
import classes from './Grid.module.css'
import { plain } from './layout'
import type { LineActs } from './Line'

type Props = {
  sheet: Sheet
  columns: (Column | undefined)[]
  totals: (Sheet['totals'][number] | undefined)[]
  named: boolean
  wide: boolean
  template: string
  acts: LineActs
}

/** What stands under the columns; each total opens into all rows of the sheet. */
export const Totals = memo(function Totals({ sheet, columns, totals, named, wide, template, acts }: Props) {
  return (
    <div role="row" data-totals className={classes.totals} style={{ gridTemplateColumns: template }}>
      {named && (
        <div role="rowheader" className={classes.name}>
          Total
        </div>
      )}
      {wide && <span />}
      {columns.map((c, i) => {
        const t = totals[i]
        return (
          <div key={i} role="cell" className={c?.right ? classes.right : undefined}>
            {t?.text !== undefined && c && (
              <>
                {sheet.show === 'crosstab' || plain.includes(t.op) || <small>{t.op} </small>}
                <button
                  type="button"
                  className={classes.figure}
                  onClick={e => acts.figure(e.currentTarget, { path: '', across: c.path, of: c.id })}
                >
                  {t.text}
                </button>
              </>
            )}
          </div>
        )
      })}
      {sheet.blanks.map(b => (
        <div key={b} role="cell" />
      ))}
    </div>
  )
})
