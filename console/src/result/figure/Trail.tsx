import { Link, useSearchParams } from 'react-router'
import { count } from '../../parts/said'
import classes from './Trail.module.css'
import { back, trailIn } from './trail'
import { useOpening } from './useOpening'

type Props = { result: string; title: string }

/**
 * The figures that were opened on the way here, with a way back to each; and that the rows come to the
 * last one's figure.
 */
export function Trail({ result, title }: Props) {
  const [params] = useSearchParams()
  const trail = trailIn(params)
  const last = useOpening(result, trail.at(-1))
  if (trail.length === 0) return null
  return (
    <nav className={classes.trail} aria-label="Opened figures" data-trail>
      <ol>
        {trail.map((_, i) => (
          <li key={i}>
            <Link to={`?${back(trail, i)}`}>
              {i === 0 ? title : <Said result={result} step={trail[i - 1]} />}
            </Link>
          </li>
        ))}
        <li aria-current="step">
          <Said result={result} step={trail.at(-1)!} />
        </li>
      </ol>
      {last.data?.alone && (
        <p>
          {last.data.label} was <strong>{last.data.before || 'nothing'}</strong>;{' '}
          {count(last.data.rows, 'row is', 'rows are')} behind it, which do not add up to it.
        </p>
      )}
      {last.data && !last.data.alone && (
        <p className={last.data.agree ? classes.agree : classes.differ} data-agree={last.data.agree}>
          {last.data.agree ? '✓' : '▲'} {last.data.label} was <strong>{last.data.before || 'nothing'}</strong>
          ; {count(last.data.rows, 'row', 'rows')} behind it come to{' '}
          <strong>{last.data.after || 'nothing'}</strong>:{' '}
          {last.data.agree ? 'they agree.' : 'they do not agree.'}
        </p>
      )}
    </nav>
  )
}

function Said({ result, step }: { result: string; step: ReturnType<typeof trailIn>[number] }) {
  const opening = useOpening(result, step)
  return <>{opening.data?.says ?? '…'}</>
}
