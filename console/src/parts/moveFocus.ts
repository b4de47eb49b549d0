import type { KeyboardEvent } from 'react'

/** Moves the focus with the arrow keys among the elements that match a selector. */
export function moveFocus(e: KeyboardEvent<HTMLElement>, selector: string) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
  if (!step) return
  const all = [...e.currentTarget.querySelectorAll<HTMLElement>(selector)]
  const next = all[all.indexOf(document.activeElement as HTMLElement) + step]
  if (!next) return
  e.preventDefault()
  next.focus()
}
