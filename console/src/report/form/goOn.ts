import type { KeyboardEvent } from 'react'

/**
 * Enter goes on to the next field of a form, and from the last one to what follows. Open lists keep
 * the key to themselves.
 */
export function goOn(e: KeyboardEvent<HTMLElement>, onLast: () => void) {
  const at = e.target as HTMLElement
  if (
    e.key !== 'Enter' ||
    e.ctrlKey ||
    e.metaKey ||
    e.defaultPrevented ||
    at.tagName === 'BUTTON' ||
    at.tagName === 'TEXTAREA'
  )
    return
  const field = at.closest('[data-field]')
  if (!field) return
  e.preventDefault()
  const all = [...e.currentTarget.querySelectorAll<HTMLElement>('[data-field]')]
  for (const next of all.slice(all.indexOf(field as HTMLElement) + 1)) {
    const first = next.matches(focusable) ? next : next.querySelector<HTMLElement>(focusable)
    if (first) return first.focus()
  }
  onLast()
}

const focusable =
  'input:not([disabled]):not([type=hidden]):not([tabindex="-1"]), button:not([disabled]):not([tabindex="-1"])'
