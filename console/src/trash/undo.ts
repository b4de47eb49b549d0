import { useSyncExternalStore } from 'react'
import { answer, api, type Schemas } from '../api/client'

/** Something that took away or overwrote, done just now: what is said of it, and what brings back what was. */
export type Undoable = { id: string; says: string; undo: () => Promise<unknown> }

let last: Undoable | undefined
const listeners = new Set<() => void>()

/** Tells what was done, so that the shell offers to undo it; undefined for no more. */
export function offerUndo(done: Undoable | undefined) {
  last = done
  listeners.forEach(l => l())
}

/** Something in the trash. */
export type Thrown = Pick<Schemas['Thrown'], 'kind' | 'id' | 'name'>

/** Takes a thing out of the trash again. */
export function fromTrash(kind: Thrown['kind'], id: string) {
  return () => answer(api.POST('/trash/{kind}/{id}', { params: { path: { kind, id } } }))
}

/** Offers to take a thing out of the trash again. */
export function tellThrown({ kind, id, name }: Thrown) {
  offerUndo({ id, says: `“${name}” is in the trash.`, undo: fromTrash(kind, id) })
}

/** Offers to put back what something was before it was changed. */
export function tellChanged(name: string, undo: Undoable['undo']) {
  offerUndo({ id: name, says: `“${name}” is changed.`, undo })
}

/** What was done last, as long as it is offered to be undone. */
export function useUndoable() {
  return useSyncExternalStore(
    listener => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => last,
  )
}
