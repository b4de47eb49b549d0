import type { Outlined, Sheet } from '../../api/client'
import { number } from '../../parts/form'
import classes from './Passing.module.css'
import { stuckOver } from './stuck'
import type { Window } from './window'

type Props = { sheet: Sheet; outline: Outlined[]; window: Window }

/** What is said while rows fly past faster than they are drawn: where one is, by number or by group. */
export function Passing({ sheet, outline, window }: Props) {
  const over = stuckOver(outline, window.top + 1)
  const names = over.map(line => outline.find(g => g.line === line)?.name).filter(Boolean)
  return (
    <p className={classes.passing} data-passing>
      <span>{names.length ? names.join(' › ') : `${number(window.top + 1)} of ${number(sheet.lines)}`}</span>
    </p>
  )
}
