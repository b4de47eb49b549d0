import { ActionIcon, Kbd, Modal, Table, useComputedColorScheme, useMantineColorScheme } from '@mantine/core'
import { DatesProvider } from '@mantine/dates'
import { useDisclosure, useHotkeys } from '@mantine/hooks'
import { lazy, Suspense, useEffect, useRef } from 'react'
import { NavLink, Outlet, useLocation } from 'react-router'
import { SignInPage } from '../signin/SignInPage'
import { PersonMenu } from '../signin/PersonMenu'
import { useSession } from '../signin/session'
import { firstDay, useWays } from './ways'
import { sayIn } from '../parts/said'
import { writeAs } from '../parts/form'
import { Failure } from '../parts/Failure'
import { UndoStrip } from '../trash/UndoStrip'
import { Mark } from './Mark'
import { About } from './About'
import { placesOf } from './places'
import { PlacesMenu } from './PlacesMenu'
import classes from './Shell.module.css'
import { useService } from '../api/useService'

const Palette = lazy(async () => ({ default: (await import('./palette/Palette')).Palette }))

const keys: [string, string][] = [
  ['Ctrl K', 'go to anything, or do it, by its name'],
  ['/', 'to the search'],
  ['↑ ↓', 'move in a list or a sheet'],
  ['Enter', 'open what is in focus'],
  ['Space', 'pick an entry'],
  ['a', 'pick all entries of a list, or none'],
  ['↓', 'open the choices of a field'],
  ['Enter', 'go on to the next field'],
  ['Ctrl Enter', 'run the report'],
  ['Ctrl S', 'keep the values of the form'],
  ['Ctrl Z', 'undo the last change of a view; with Shift, do it again'],
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
  const service = useService()
  if (who) sayIn(who.zone)
  if (who) writeAs(who.form)
  useWays(who)
  const [seeking, { open: seek, close: found }] = useDisclosure(false)
  useHotkeys([['mod+K', seek]], []) // from within a field too
  useHotkeys([
    ['shift+?', open],
    ['/', () => document.querySelector<HTMLInputElement>('[data-search]')?.focus()],
  ])
  if (error) return <Failure error={error} again={() => window.location.reload()} />
  if (service.error) return <Failure error={service.error} again={() => window.location.reload()} />
  if (who === undefined || !service.data) return null
  if (who === null) return <SignInPage />
  return (
    <DatesProvider settings={{ firstDayOfWeek: firstDay(who), weekendDays: [] }}>
      {present === null && <SignInPage again={who.name} />}
      <div className={classes.shell} hidden={present === null}>
        <p id="announced" className="unseen" role="status" />
        <a className={classes.skip} href="#place">
          Skip to the content
        </a>
        <header className={classes.band}>
          <NavLink to="/" className={classes.name}>
            <Mark />
            <span className={classes.word}>Mantilla</span>
          </NavLink>
          <nav className={classes.places} aria-label="Places">
            {placesOf(who).map(p => (
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
          <PlacesMenu who={who} className={classes.menu} />
          <span className={classes.of}>{`${service.data.name} · ${longDay(service.data.today)}`}</span>
          <ActionIcon variant="subtle" aria-label="Go to, or do" title="Ctrl K" onClick={seek}>
            <svg viewBox="0 0 16 16" width="15" height="15" aria-hidden className={classes.glass}>
              <circle cx="6.5" cy="6.5" r="4.5" />
              <path d="M10 10 L14.5 14.5" />
            </svg>
          </ActionIcon>
          <PersonMenu who={who} />
          <ActionIcon variant="subtle" aria-label="Help and keys" className={classes.keys} onClick={open}>
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
        {seeking && (
          <Suspense>
            <Palette who={who} onClose={found} />
          </Suspense>
        )}
        <Modal opened={help} onClose={close} title="Help and keys">
          <About onGo={close} />
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
    </DatesProvider>
  )
}

/** After a change of place the focus goes to the place, unless something in it, or a dialog, took it. */
function useFocusOnPlace() {
  const { pathname } = useLocation()
  const first = useRef(true)
  useEffect(() => {
    if (first.current) {
      first.current = false
      return
    }
    const place = document.getElementById('place')
    const at = document.activeElement
    if (place && !place.contains(at) && !at?.closest('[role=dialog]')) place.focus({ preventScroll: true })
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
