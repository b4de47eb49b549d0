import { Button } from '@mantine/core'
import { Link } from 'react-router'
import type { Result } from '../../api/client'
import { Heading } from '../../parts/Heading'
import { KeptBadge } from '../../results/KeptBadge'
import { useRight } from '../../signin/session'
import { CompareButton } from '../compare/CompareButton'
import { ReconcileButtons } from '../reconcile/ReconcileButtons'
import { MoreActions } from './MoreActions'
import { PageTake } from './PageTake'
import classes from './ResultBar.module.css'
import { Place } from './Place'
import { RunAgain } from './RunAgain'

/** What can stand beside the rows, by its name. */
export type Named = 'made' | 'values' | 'complete' | 'origin' | 'keeping' | 'open' | 'row'

type Props = {
  result: Result
  /** The views in sight. */
  shown: string[]
  side: Named | undefined
  onSide: (side: Named) => void
}

/** What the result is and what can be done with it, in two lines above its rows. */
export function ResultBar({ result: r, shown, side, onSide }: Props) {
  const mayRun = useRight('run')
  const aside = (name: Named, label: string) => (
    <Button
      size="compact-sm"
      variant="subtle"
      color="gray"
      aria-expanded={side === name}
      onClick={() => onSide(name)}
    >
      {label}
    </Button>
  )
  const again = mayRun && !r.made
  return (
    <header className={classes.bar}>
      <div className={classes.names}>
        <Heading className={classes.title} title={r.title} />
        <p className={classes.number}>
          {r.id} of <Link to={`/reports/${r.report}`}>{r.report}</Link> <KeptBadge result={r} />
        </p>
      </div>
      <div className={classes.actions} data-acts>
        {again && <RunAgain result={r} />}
        {again && aside('values', 'Change values')}
        <div className={classes.seldom}>
          {again && <CompareButton result={r} />}
          <ReconcileButtons result={r} open={side === 'open'} onOpen={() => onSide('open')} />
          {aside('keeping', 'Notes and sign-off')}
          {aside('made', 'How it was made')}
          <Place result={r} view={shown[0]} />
        </div>
        <MoreActions result={r} view={shown[0]} onSide={onSide} />
        <PageTake result={r} shown={shown} />
      </div>
      <p className={classes.sentence} title={[r.sentence, ...r.notes].join(' ')}>
        <span data-sentence>{r.sentence}</span>
        {r.notes.map(n => (
          <span key={n} className={classes.note} data-note>
            {n}
          </span>
        ))}
      </p>
    </header>
  )
}
