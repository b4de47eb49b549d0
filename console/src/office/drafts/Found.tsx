import { Link } from 'react-router'
import type { Effect } from '../../api/client'
import classes from './DraftPage.module.css'
import type { Finding } from './useFindings'

type Props = { finding: Finding; onGo: (line: number, column: number) => void }

/** What is wrong with a definition, what is probably not meant, and what a change of it would do. */
export function Found({ finding, onGo }: Props) {
  const f = finding.findings
  return (
    <div aria-live="polite" data-found={finding.whole || undefined}>
      {finding.error && <p className={classes.wrong}>{finding.error.message}</p>}
      {f && f.faults.length > 0 && (
        <>
          <h2>
            {f.faults.length === 1 ? 'One thing is not right' : `${f.faults.length} things are not right`}
          </h2>
          <ol className={classes.faults}>
            {f.faults.map((fault, i) => (
              <li key={i}>
                <button type="button" onClick={() => onGo(fault.line, fault.column)}>
                  line {fault.line}, column {fault.column}
                </button>
                : {fault.message}
              </li>
            ))}
          </ol>
        </>
      )}
      {f && f.faults.length === 0 && (
        <p>
          {finding.whole
            ? 'Everything is right, and its source understands it.'
            : 'The text is right. Check asks the source, too.'}
        </p>
      )}
      {f && f.warnings.length > 0 && (
        <>
          <h2>Probably not meant</h2>
          <ul data-warnings>
            {f.warnings.map(w => (
              <li key={w}>{w}</li>
            ))}
          </ul>
        </>
      )}
      {f?.changes && (
        <>
          <h2>Against the catalog</h2>
          {f.changes.length === 0 && <p>It means the same as the report in the catalog.</p>}
          <ul>
            {f.changes.map(c => (
              <li key={c}>{c}</li>
            ))}
          </ul>
          <Effects effects={f.effects} />
        </>
      )}
    </div>
  )
}

const kinds: Record<Effect['kind'], string> = {
  criteria: 'criteria',
  control: 'run control',
  view: 'kept view',
  tile: 'tile of',
  report: 'report',
}

/** What depends on the report: first what would no longer fit. */
function Effects({ effects }: { effects: Effect[] }) {
  const unfit = effects.filter(e => e.unfit.length > 0)
  const fit = effects.length - unfit.length
  return (
    <>
      {unfit.length > 0 && (
        <>
          <h2>Would no longer fit</h2>
          <ul data-unfit>
            {unfit.map(e => (
              <li key={e.kind + e.id + e.name}>
                {kinds[e.kind]}{' '}
                <b>{e.kind === 'control' ? <Link to={`/controls/${e.id}`}>{e.name}</Link> : e.name}</b>
                {e.owner && ` of ${e.owner}`}: {e.unfit.join('; ')}
              </li>
            ))}
          </ul>
          <p>Their owners are told when it is taken in.</p>
        </>
      )}
      {fit > 0 && (
        <p>{fit === 1 ? 'One thing depends' : `${fit} things depend`} on it and would go on fitting.</p>
      )}
    </>
  )
}
