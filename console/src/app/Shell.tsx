import { ActionIcon, Kbd, Modal, Table, useComputedColorScheme, useMantineColorScheme } from '@mantine/core'
import { useDisclosure, useHotkeys } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { NavLink, Outlet, useLocation } from 'react-router'
import { answer, api } from '../api/client'
import { SignInPage } from '../signin/SignInPage'
import { PersonMenu } from '../signin/PersonMenu'
import { useSession } from '../signin/session'
import { sayIn } from '../parts/said'
import { Failure } from '../parts/Failure'
import { UndoStrip } from '../trash/UndoStrip'
import { Mark } from './Mark'
import classes from './Shell.module.css'

const places = [
  { to: '/', name: 'Desk' },
  { to: '/catalog', name: 'Catalog' },
  { to: '/controls', name: 'Run controls', rights: ['run'] as const },
  { to: '/timetable', name: 'Timetable', rights: ['run'] as const },
  { to: '/runs', name: 'Runs' },
  { to: '/results', name: 'Results' },
  { to: '/sending', name: 'Sending', rights: ['run'] as const },
  { to: '/office', name: 'Library office', rights: ['write', 'sources', 'open'] as const },
]

const keys: [string, string][] = [
  ['/', 'to the search'],
  ['↑ ↓', 'move in a list or a sheet'],
  ['Enter', 'open what is in focus'],
  ['Space', 'pick an entry'],
  ['a', 'pick all entries of a list, or none'],
  ['↓', 'open the choices of a field'],
  ['Enter', 'go on to the next field'],
  ['Ctrl Enter', 'run the report'],
  ['Ctrl S', 'keep the values of the form'],
  ['?', 'this list'],
]

/** The band at the top of every place, and the place below it. */
export function Shell() {
  const scheme = useComputedColorScheme('light')
  const { setColorScheme } = useMantineColorScheme()
  const [help, { open, close }] = useDisclosure(false)
  const { who: present, error } = useSession()
  const last = useRef(present)
  if (present) last.current = present
  const who = present ?? last.current ?? present
  useFocusOnPlace()
  const service = useQuery({ queryKey: ['service'], queryFn: () => answer(api.GET('/service')) })
  if (who) sayIn(who.zone)
  useHotkeys([
    ['shift+?', open],
    ['/', () => document.querySelector<HTMLInputElement>('[data-search]')?.focus()],
  ])
  if (error) return <Failure error={error} again={() => window.location.reload()} />
  if (service.error) return <Failure error={service.error} again={() => window.location.reload()} />
  if (who === undefined || !service.data) return null
  if (who === null) return <SignInPage />
  return (
    <>
      {present === null && <SignInPage again={who.name} />}
      <div className={classes.shell} hidden={present === null}>
        <p id="announced" className="unseen" role="status" />
        <a className={classes.skip} href="#place">
          Skip to the content
        </a>
        <header className={classes.band}>
          <NavLink to="/" className={classes.name}>
            <Mark />
            Mantilla
          </NavLink>
          <nav className={classes.places} aria-label="Places">
            {places
              .filter(p => !p.rights || p.rights.some(r => who.rights.includes(r)))
              .map(p => (
                <NavLink
                  key={p.to}
                  to={p.to}
                  end={p.to === '/'}
                  className={({ isActive }) => (isActive ? classes.here : classes.there)}
                >
                  {p.name}
                </NavLink>
              ))}
          </nav>
          <span className={classes.of}>{`${service.data.name} · ${longDay(service.data.today)}`}</span>
          <PersonMenu who={who} />
          <ActionIcon variant="subtle" aria-label="Keys" onClick={open}>
            ?
          </ActionIcon>
          <ActionIcon
            variant="subtle"
            aria-label={scheme === 'dark' ? 'Light colours' : 'Dark colours'}
            onClick={() => setColorScheme(scheme === 'dark' ? 'light' : 'dark')}
          >
            {scheme === 'dark' ? '☀' : '☾'}
          </ActionIcon>
        </header>
        <main id="place" className={classes.place} tabIndex={-1}>
          <Outlet />
          <UndoStrip />
        </main>
        <Modal opened={help} onClose={close} title="Keys">
          <Table>
            <Table.Tbody>
              {keys.map(([key, does]) => (
                <Table.Tr key={key}>
                  <Table.Td>
                    <Kbd>{key}</Kbd>
                  </Table.Td>
                  <Table.Td>{does}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </Modal>
      </div>
    </>
  )
}

/** After a change of place the focus goes to the place, unless something in it took it. */
function useFocusOnPlace() {
  const { pathname } = useLocation()
  const first = useRef(true)
  useEffect(() => {
    if (first.current) {
      first.current = false
      return
    }
    const place = document.getElementById('place')
    if (place && !place.contains(document.activeElement)) place.focus({ preventScroll: true })
  }, [pathname])
}

function longDay(day: string) {
  return new Date(day + 'T00:00:00Z').toLocaleDateString('en-GB', {
    day: 'numeric',
    month: 'long',
    year: 'numeric',
    timeZone: 'UTC',
  })
}
