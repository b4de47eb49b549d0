import { useCallback, useState } from 'react'

/** The height of a row in pixels. */
export const rowHeight = 28

// Browsers stop drawing elements of some tens of millions of pixels. Beyond
// this height, a pixel of the scroll bar stands for more than one of the rows.
const tallest = 8_000_000

export type Window = {
  first: number
  last: number
  /** Height that the scroll bar shows. */
  height: number
  /** Distance of the first drawn row from the top. */
  offset: number
}

/** Which rows are in sight of a scrolled box of rows of equal height. Arithmetic serves any number of rows. */
export function useWindow(rows: number, boxHeight: number) {
  const [top, setTop] = useState(0)
  const full = rows * rowHeight
  const height = Math.min(full, tallest)
  const room = Math.max(height - boxHeight, 1)
  const place = (Math.min(top, room) / room) * Math.max(full - boxHeight, 0)
  const first = Math.max(Math.floor(place / rowHeight) - 6, 0)
  const last = Math.min(first + Math.ceil(boxHeight / rowHeight) + 12, rows)
  const offset = Math.min(top, room) - (place - first * rowHeight)
  const onScroll = useCallback((e: React.UIEvent<HTMLElement>) => setTop(e.currentTarget.scrollTop), [])
  return { window: { first, last, height, offset } as Window, onScroll }
}
