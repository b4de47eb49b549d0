import type { Parameter, Values } from '../../api/client'
import classes from './CriteriaPanel.module.css'

type Props = { name: string; was: Values; will: Values; parameters: Parameter[] }

/** What overwriting criteria would change, value by value. */
export function Changes({ name, was, will, parameters }: Props) {
  const names = [...new Set([...Object.keys(was), ...Object.keys(will)])].filter(
    n => (was[n] ?? '') !== (will[n] ?? ''),
  )
  if (names.length === 0) return <p>“{name}” has these values already.</p>
  const label = (n: string) => parameters.find(p => p.id === n)?.label ?? n
  return (
    <table className={classes.changes}>
      <thead>
        <tr>
          <th scope="col">In “{name}”</th>
          <th scope="col">now</th>
          <th scope="col">afterwards</th>
        </tr>
      </thead>
      <tbody>
        {names.map(n => (
          <tr key={n}>
            <td>{label(n)}</td>
            <td>{was[n] || '—'}</td>
            <td>{will[n] || '—'}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
