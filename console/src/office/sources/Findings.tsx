import type { Schemas } from '../../api/client'
import classes from './Sources.module.css'

/** What was found when a source was tested, step by step. */
export function Findings({ found }: { found: Schemas['Finding'][] }) {
  return (
    <ul className={classes.findings} data-findings={found.every(f => f.good) ? 'good' : 'bad'}>
      {found.map(f => (
        <li key={f.what} data-good={f.good}>
          <strong>
            {f.good ? '✓' : '▲'} {f.what}
          </strong>{' '}
          <span className="dim figure">{f.milliseconds.toFixed(1)} ms</span>
          <br />
          {f.says}
        </li>
      ))}
    </ul>
  )
}
