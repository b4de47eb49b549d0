import { Checkbox } from '@mantine/core'
import type { Schemas } from '../../api/client'
import classes from './OpenSide.module.css'

type Props = {
  title: string
  items: Schemas['OpenItem'][]
  marked: number[]
  /** What was chosen already. */
  taken: number[]
  onMark: (number: number) => void
}

/** One side of what is open, to be marked. */
export function OpenItems({ title, items, marked, taken, onMark }: Props) {
  return (
    <table className={classes.items}>
      <caption>{title}</caption>
      <tbody>
        {items.map(it => (
          <tr key={it.number}>
            <td>
              <Checkbox
                size="xs"
                aria-label={`${title}, ${it.number}`}
                disabled={taken.includes(it.number)}
                checked={marked.includes(it.number)}
                onChange={() => onMark(it.number)}
              />
            </td>
            <td className={classes.number}>{it.number}</td>
            <td>
              {it.reference ?? it.text ?? ''}
              <div className="dim">
                {it.became}
                {it.day && `, ${it.day}`}
                {it.since && `, since ${it.since}`}
                {it.reference && it.text && `: ${it.text}`}
              </div>
            </td>
            <td className={classes.number}>{it.amount}</td>
          </tr>
        ))}
        {items.length === 0 && (
          <tr>
            <td className="dim">Nothing is open.</td>
          </tr>
        )}
      </tbody>
    </table>
  )
}
