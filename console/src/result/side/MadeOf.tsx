import { Link } from 'react-router'
import type { Schemas } from '../../api/client'
import { at } from '../../api/below'

type Props = { made: Schemas['Made'] }

/** The results that a result was made of, with their seals, and what rows were found by. */
export function MadeOf({ made }: Props) {
  if (made.series) return <MadeOfSeries made={made} />
  const names = made.restates
    ? ['Signed off', 'Run again']
    : made.statement
      ? ['Ours', 'Brought on from']
      : ['Before', 'After']
  return (
    <>
      <h2>Made of</h2>
      <dl data-made>
        {made.of.map((of, i) => (
          <div key={i}>
            <dt>{names[i]}</dt>
            <dd>
              <Link to={`/results/${of.result}`}>{of.result}</Link>, {of.dataset}
              <div className="dim">
                seal <code>{of.seal.slice(0, 16)}</code>
              </div>
            </dd>
          </div>
        ))}
        {made.statement && (
          <div>
            <dt>Statement</dt>
            <dd>
              <a href={at(`/api/statements/${made.statement.id}/file`)} download>
                {made.statement.name}
              </a>
              , until {made.statement.until}
              <div className="dim">
                SHA-256 <code>{made.statement.digest.slice(0, 16)}</code>
              </div>
            </dd>
          </div>
        )}
        {made.key.length > 0 && (
          <div>
            <dt>Rows found by</dt>
            <dd>{made.key.join(', ')}</dd>
          </div>
        )}
      </dl>
    </>
  )
}

/** The results of a run control that a history was read of, and what is missing among them. */
function MadeOfSeries({ made }: Props) {
  const s = made.series!
  return (
    <>
      <h2>Made of</h2>
      <dl data-made>
        <div>
          <dt>Run control</dt>
          <dd>
            <Link to={`/controls/${s.control}`}>{s.control}</Link>
          </dd>
        </div>
        <div>
          <dt>Results</dt>
          <dd>
            {made.of.map(of => (
              <span key={of.result} title={`seal ${of.seal.slice(0, 16)}`}>
                <Link to={`/results/${of.result}`}>{of.result}</Link>{' '}
              </span>
            ))}
          </dd>
        </div>
        {s.gaps.map(g => (
          <div key={g.day}>
            <dt>{g.day}</dt>
            <dd>nothing was kept: {g.reason}</dd>
          </div>
        ))}
        <div>
          <dt>Rows found by</dt>
          <dd>{made.key.join(', ')}</dd>
        </div>
        <div>
          <dt>State</dt>
          <dd>{s.track.join(', ')}</dd>
        </div>
      </dl>
    </>
  )
}
