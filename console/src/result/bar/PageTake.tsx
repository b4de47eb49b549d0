import { useSearchParams } from 'react-router'
import type { Result } from '../../api/client'
import { useRight } from '../../signin/session'
import { readingIn } from '../reading'
import { useSheet } from '../sheet/pages'
import { SendDialog } from '../take/SendDialog'
import { TakeAway } from '../take/TakeAway'
import classes from './ResultBar.module.css'

type Props = {
  result: Result
  /** The views in sight, which go together. */
  shown: string[]
}

/** Takes what is in sight away, or sends it: the whole page where several views stand on it. */
export function PageTake({ result, shown: [first, ...others] }: Props) {
  const [params] = useSearchParams()
  const mayTake = useRight('take-away')
  const maySend = useRight('run') && mayTake
  const reading = readingIn(params, first ?? '')
  const sheet = useSheet(result.id, first ?? '', reading, Boolean(first) && mayTake)
  if (!mayTake || !sheet.data) return null
  const of = { result, view: first, sheet: sheet.data, reading, also: others }
  return (
    <span className={classes.take} key={[first, ...others].join()}>
      {maySend && <SendDialog {...of} />}
      <TakeAway {...of} primary />
    </span>
  )
}
