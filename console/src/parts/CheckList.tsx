import type { Schemas } from '../api/client'
import classes from './CheckList.module.css'

type Props = { checks: Schemas['CheckOutcome'][] }

const states = { held: 'holds', broken: 'does not hold', untold: 'cannot be told' } as const

/** How what should hold of figures came out. */
export function CheckList({ checks }: Props) {
  if (checks.length === 0) return null
  return (
    <ul className={classes.checks}>
      {checks.map(c => (
        <li key={c.id} data-state={c.state}>
          <strong>{c.id}</strong> {states[c.state]}
          {c.state !== 'held' && `: ${c.says}`}
          {c.state === 'held' && c.before && `: ${c.figure}, and ${c.before} in the run before`}
        </li>
      ))}
    </ul>
  )
}
