import type { Sheet } from '../../api/client'
import { Cell } from './Cell'
import classes from './FormView.module.css'
import type { OnFigure } from './Line'
import { number } from '../../parts/form'

/** The most rows that are shown as forms at once; a form is read one at a time. */
const most = 60

type Props = { sheet: Sheet; onFigure: OnFigure }

/** Each row as a filed form: its fields under their headings, with room for what is filled in by hand. */
export function FormView({ sheet, onFigure }: Props) {
  const sections = [...new Set(sheet.columns.map(c => c.under ?? ''))]
  return (
    <div className={classes.forms} data-sheet={sheet.view} tabIndex={0} role="group" aria-label={sheet.title}>
      {sheet.cells.slice(0, most).map((cells, n) => (
        <article key={n} className={classes.form}>
          {sections.map(section => (
            <section key={section}>
              {section && <h3>{section}</h3>}
              <dl>
                {sheet.columns.map(
                  (c, i) =>
                    (c.under ?? '') === section && (
                      <div key={c.id}>
                        <dt>{c.heading}</dt>
                        <dd>
                          {cells[i] === null ? (
                            <span className="dim">–</span>
                          ) : (
                            <Cell
                              alone
                              column={{ ...c, right: false }}
                              text={cells[i]}
                              links={sheet.links[n]}
                              tone={sheet.marks[n].tones?.[i] ?? ''}
                              row={{ view: `${sheet.dataset}.rows`, number: sheet.marks[n].row! }}
                              onFigure={
                                c.behind
                                  ? at =>
                                      onFigure(at, {
                                        path: '',
                                        across: '',
                                        of: c.id,
                                        row: sheet.marks[n].row,
                                      })
                                  : undefined
                              }
                            />
                          )}
                        </dd>
                      </div>
                    ),
                )}
              </dl>
            </section>
          ))}
          {sheet.blanks.length > 0 && (
            <section>
              <dl>
                {sheet.blanks.map(b => (
                  <div key={b} className={classes.blank}>
                    <dt>{b}</dt>
                    <dd />
                  </div>
                ))}
              </dl>
            </section>
          )}
        </article>
      ))}
      {sheet.lines > most && (
        <p className="dim">
          The first {most} of {number(sheet.lines)}; choose less, or read them as a table.
        </p>
      )}
    </div>
  )
}
