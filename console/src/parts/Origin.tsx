import { Fragment } from 'react'
import type { Schemas } from '../api/client'
import classes from './Origin.module.css'

type Props = {
  column: Schemas['ColumnOrigin']
  /** What was read, where that is known. */
  statement?: Schemas['Statement']
  /** Another column of the formula is wanted. */
  onColumn?: (id: string) => void
}

/** A column: what it means, the formula or the SQL that it is made by, and the tables behind it. */
export function Origin({ column: c, statement, onColumn }: Props) {
  return (
    <dl className={classes.origin}>
      {(c.about || c.term) && (
        <div>
          <dt>Means</dt>
          <dd>
            {c.about && <p>{c.about}</p>}
            {c.term && (
              <p>
                <strong>{c.term.name}</strong>
                {c.term.also.length > 0 && <span className="dim"> ({c.term.also.join(', ')})</span>}:{' '}
                {c.term.meaning}
                {c.term.owner && <span className="dim"> {c.term.owner} answers for it.</span>}
              </p>
            )}
          </dd>
        </div>
      )}
      {c.personal && (
        <div>
          <dt>Personal</dt>
          <dd>{c.personal}</dd>
        </div>
      )}
      {c.formula && (
        <div>
          <dt>Formula</dt>
          <dd>
            <code>{c.formula}</code>
          </dd>
        </div>
      )}
      {c.madeOf.length > 0 && (
        <div>
          <dt>Made of</dt>
          <dd>
            {c.madeOf.map((id, i) => (
              <Fragment key={id}>
                {i > 0 && ', '}
                {onColumn ? (
                  <button type="button" className="act" onClick={() => onColumn(id)}>
                    {id}
                  </button>
                ) : (
                  id
                )}
              </Fragment>
            ))}
          </dd>
        </div>
      )}
      {c.sql && (
        <div>
          <dt>SQL</dt>
          <dd>
            <code>{c.sql}</code>
          </dd>
        </div>
      )}
      {c.tables.length > 0 && (
        <div>
          <dt>Tables</dt>
          <dd>{c.tables.join(', ')}</dd>
        </div>
      )}
      {statement && (
        <div className={classes.whole}>
          <dt>Read by</dt>
          <dd>
            <pre>{statement.text}</pre>
            {statement.values.map((v, i) => (
              <div key={i} className="dim">
                ?{i + 1} = {v}
              </div>
            ))}
          </dd>
        </div>
      )}
    </dl>
  )
}
