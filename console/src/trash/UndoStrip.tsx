import { CloseButton } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'
import { offerUndo, useUndoable, type Undoable } from './undo'
import classes from './UndoStrip.module.css'

/** How long what was done is offered to be undone; the trash and earlier versions have it longer. */
const offered = 30_000

/** Offers to undo what took away or overwrote something last. */
export function UndoStrip() {
  const done = useUndoable()
  const client = useQueryClient()
  const back = useMutation({
    mutationFn: (of: Undoable) => of.undo(),
    // What came back may be shown anywhere.
    onSuccess: () => (offerUndo(undefined), client.invalidateQueries()),
  })
  const { reset } = back
  useEffect(() => {
    if (!done) return
    reset()
    const timer = setTimeout(() => offerUndo(undefined), offered)
    return () => clearTimeout(timer)
  }, [done, reset])
  if (!done) return null
  return (
    <div className={classes.strip} role="status" data-undo={done.id}>
      <span>{back.error ? back.error.message : done.says}</span>
      <button type="button" className="act" disabled={back.isPending} onClick={() => back.mutate(done)}>
        Undo
      </button>
      <CloseButton size="sm" aria-label="Let it be" onClick={() => offerUndo(undefined)} />
    </div>
  )
}
