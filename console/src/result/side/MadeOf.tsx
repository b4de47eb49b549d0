import { Link } from 'react-router'
import type { Schemas } from '../../api/client'

type Props = { made: Schemas['Made'] }

/** The results that a result was made of, with their seals, and what rows were found by. */
export function MadeOf({ made }: Props) {
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
              <a href={`/api/statements/${made.statement.id}/file`} download>
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
