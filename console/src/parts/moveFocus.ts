import type { KeyboardEvent } from 'react'

/**
 * Moves the focus with two arrow keys, down and up if no others are named, among the elements that
 * match a selector.
 */
export function moveFocus(
  e: KeyboardEvent<HTMLElement>,
  selector: string,
  [back, forth] = ['ArrowUp', 'ArrowDown'],
) {
  const step = { [forth]: 1, [back]: -1 }[e.key]
  if (!step) return
  const all = [...e.currentTarget.querySelectorAll<HTMLElement>(selector)]
  const next = all[all.indexOf(document.activeElement as HTMLElement) + step]
  if (!next) return
  e.preventDefault()
  next.focus()
}
