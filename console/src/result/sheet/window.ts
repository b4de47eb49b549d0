import { useCallback, useRef, useState } from 'react'
import { flushSync } from 'react-dom'

/** The height of a line in pixels, at the usual size. */
export const lineHeight = 28

/** For who likes lines to stand close. */
export const closeHeight = 23

// Browsers stop drawing elements of some tens of millions of pixels. Beyond
// this height, a pixel of the scroll bar stands for more than one of the lines.
const tallest = 8_000_000

export type Window = {
  first: number
  last: number
  /** Height that the scroll bar shows. */
  height: number
  /** Distance of the first drawn line from the top. */
  offset: number
  /** The first line that is in sight. */
  top: number
}

/**
 * Which lines are in sight of a scrolled box of lines of equal height. Arithmetic serves any number of
 * lines.
 */
export function useWindow(lines: number, boxHeight: number, height_ = lineHeight) {
  const [scroll, setScroll] = useState({ top: 0, left: 0 })
  const full = lines * height_
  const height = Math.min(full, tallest)
  const room = Math.max(height - boxHeight, 1)
  const place = (Math.min(scroll.top, room) / room) * Math.max(full - boxHeight, 0)
  const first = Math.max(Math.floor(place / height_) - 6, 0)
  const last = Math.min(first + Math.ceil(boxHeight / height_) + 12, lines)
  const offset = Math.min(scroll.top, room) - (place - first * height_)
  const frame = useRef(0)
  // Scrolling tells of itself more often than the page is drawn.
  const onScroll = useCallback((e: React.UIEvent<HTMLElement>) => {
    const { scrollTop, scrollLeft } = e.currentTarget
    cancelAnimationFrame(frame.current)
    frame.current = requestAnimationFrame(() =>
      flushSync(() => setScroll({ top: scrollTop, left: scrollLeft })),
    )
  }, [])
  /** Where the box is to be scrolled for a line to stand at the top. */
  const topOf = (line: number) =>
    (Math.min(line * height_, Math.max(full - boxHeight, 0)) / Math.max(full - boxHeight, 1)) * room
  return {
    window: { first, last, height, offset, top: Math.floor(place / height_) } as Window,
    left: scroll.left,
    topOf,
    onScroll,
  }
}
