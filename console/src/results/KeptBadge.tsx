import { Badge } from '@mantine/core'
import type { Schemas } from '../api/client'

type Props = { result: Pick<Schemas['ResultLine'], 'signed' | 'held' | 'marked'> }

/** What is done about keeping a result, and whether its checks hold. */
export function KeptBadge({ result: r }: Props) {
  return (
    <>
      {r.signed && (
        <Badge tt="none" size="sm" color="var(--chosen)" variant="outline">
          signed off
        </Badge>
      )}{' '}
      {r.held && (
        <Badge tt="none" size="sm" variant="light">
          held
        </Badge>
      )}{' '}
      {r.marked && (
        <Badge tt="none" size="sm" color="amber" variant="light">
          a check does not hold
        </Badge>
      )}
    </>
  )
}
