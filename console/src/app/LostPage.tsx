import { Link } from 'react-router'
import { State } from '../parts/State'

/** Shown for an address that leads nowhere. */
export function LostPage() {
  return (
    <State
      alone
      title="There is no such place"
      said="The address may be mistyped."
      next={<Link to="/catalog">Go to the catalog</Link>}
    />
  )
}
