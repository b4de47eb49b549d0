import { useSyncExternalStore } from 'react'
import type { Schemas } from '../api/client'

/** Something that was deleted just now: what it is, and how it is called. */
export type JustThrown = Pick<Schemas['Thrown'], 'kind' | 'id' | 'name'>

let last: JustThrown | undefined
const listeners = new Set<() => void>()

/** Tells that something was deleted, so that the shell offers to bring it back; undefined for no more. */
export function tellThrown(thing: JustThrown | undefined) {
  last = thing
  listeners.forEach(l => l())
}

/** What was deleted last, as long as it is offered to be brought back. */
export function useJustThrown() {
  return useSyncExternalStore(
    listener => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => last,
  )
}
