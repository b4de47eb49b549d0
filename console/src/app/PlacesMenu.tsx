import { Button, Popover } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { NavLink, useLocation } from 'react-router'
import type { Who } from '../api/client'
import { placesOf } from './places'
import classes from './PlacesMenu.module.css'

type Props = { who: Who; className: string }

/** The places in one menu, for windows that are too narrow to name them all. */
export function PlacesMenu({ who, className }: Props) {
  const { pathname } = useLocation()
  const [open, { close, toggle }] = useDisclosure(false)
  const places = placesOf(who)
  const here = places.findLast(p => (p.to === '/' ? pathname === '/' : pathname.startsWith(p.to)))
  return (
    <div className={className}>
      <Popover opened={open} onDismiss={close} position="bottom-start" shadow="md" trapFocus returnFocus>
        <Popover.Target>
          <Button variant="default" size="compact-md" onClick={toggle} aria-expanded={open}>
            {here?.name ?? 'Places'} ▾
          </Button>
        </Popover.Target>
        <Popover.Dropdown p={0} role="dialog" aria-label="Places">
          <nav aria-label="Places" className={classes.list}>
            {places.map(p => (
              <NavLink key={p.to} to={p.to} end={p.to === '/'} className={classes.place} onClick={close}>
                {p.name}
              </NavLink>
            ))}
          </nav>
        </Popover.Dropdown>
      </Popover>
    </div>
  )
}
