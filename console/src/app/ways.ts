import { useMantineColorScheme } from '@mantine/core'
import { useEffect } from 'react'
import { useNavigate } from 'react-router'
import type { Who } from '../api/client'
import { below } from '../api/below'

// Where the console was entered: going to the desk later is going to the desk.
const enteredAtRoot = window.location.pathname.replace(/\/$/, '') === below.replace(/\/$/, '')
let opened = false

/** Lets the console be as the person likes it: light or dark, and opening with the place they chose. */
export function useWays(who: Who | null | undefined) {
  const { setColorScheme } = useMantineColorScheme()
  const navigate = useNavigate()
  const scheme = who?.ways.scheme
  const opens = who?.ways.opens
  useEffect(() => {
    if (scheme === 'light' || scheme === 'dark') setColorScheme(scheme)
  }, [scheme, setColorScheme])
  useEffect(() => {
    if (who === null || who === undefined || opened) return
    opened = true
    if (enteredAtRoot && opens && opens !== 'desk') void navigate(`/${opens}`, { replace: true })
  }, [who, opens, navigate])
}

/** The number by which calendars name the first day of a week. */
export function firstDay(who: Who | null | undefined): 0 | 1 | 6 {
  if (who?.ways.week === 'sunday') return 0
  return who?.ways.week === 'saturday' ? 6 : 1
}
