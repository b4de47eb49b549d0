import type { Who } from '../api/client'

type Right = Who['rights'][number]

type Place = {
  to: string
  name: string
  /** Any of these rights is needed; none for who is signed in. */
  rights?: readonly Right[]
  /** What people call it otherwise. */
  also: string
}

/** The places of the console, in the order of the band. */
const all: Place[] = [
  { to: '/', name: 'Desk', also: 'home start tiles notices overview' },
  { to: '/catalog', name: 'Catalog', also: 'reports find search list' },
  { to: '/controls', name: 'Run controls', also: 'jobs saved batches' },
  { to: '/timetable', name: 'Timetable', rights: ['run'], also: 'schedule calendar due next' },
  { to: '/runs', name: 'Runs', also: 'history queue running' },
  { to: '/results', name: 'Results', also: 'kept archive earlier signed' },
  { to: '/sending', name: 'Sending', rights: ['run'], also: 'mail post parcels addresses book' },
  {
    to: '/office',
    name: 'Library office',
    rights: ['write', 'sources', 'open'],
    also: 'administration settings',
  },
]

export function placesOf(who: Who): Place[] {
  return all.filter(p => !p.rights || p.rights.some(r => who.rights.includes(r)))
}
