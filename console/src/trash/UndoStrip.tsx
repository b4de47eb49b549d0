import { CloseButton } from '@mantine/core'
import { useEffect } from 'react'
import { tellThrown, useJustThrown } from './thrown'
import classes from './UndoStrip.module.css'
import { useReturn } from './useReturn'

/** How long what was deleted is offered to be brought back at once; the trash has it longer. */
const offered = 30_000

/** Offers to bring back what was deleted last. */
export function UndoStrip() {
  const thrown = useJustThrown()
  const back = useReturn(() => tellThrown(undefined))
  const { reset } = back
  useEffect(() => {
    if (!thrown) return
    reset()
    const timer = setTimeout(() => tellThrown(undefined), offered)
    return () => clearTimeout(timer)
  }, [thrown, reset])
  if (!thrown) return null
  return (
    <div className={classes.strip} role="status" data-undo={thrown.id}>
      <span>{back.error ? back.error.message : `“${thrown.name}” is in the trash.`}</span>
      <button type="button" className="act" disabled={back.isPending} onClick={() => back.mutate(thrown)}>
        Undo
      </button>
      <CloseButton size="sm" aria-label="Let it be" onClick={() => tellThrown(undefined)} />
    </div>
  )
}
