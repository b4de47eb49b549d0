import { useCallback, useRef, useState } from 'react'
import { flushSync } from 'react-dom'

/** The height of a line in pixels, at the usual size. */
export const lineHeight = 28

/** For who likes lines to stand close. */
export const closeHeight = 23

// Browsers stop drawing elements of some tens of millions of pixels. Beyond
// this height, a pixel of the scroll bar stands for more than one of the lines.
const tallest = 8_000_000

// Rows that fly past by almost half a screen a frame are not drawn: nobody reads them. What stands still
// for so many milliseconds is.
const passed = 0.4
const settled = 80

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
  const [scroll, setScroll] = useState({ top: 0, left: 0, flying: false })
  const full = lines * height_
  const height = Math.min(full, tallest)
  const room = Math.max(height - boxHeight, 1)
  const place = (Math.min(scroll.top, room) / room) * Math.max(full - boxHeight, 0)
  const first = Math.max(Math.floor(place / height_) - 6, 0)
  const last = Math.min(first + Math.ceil(boxHeight / height_) + 12, lines)
  const offset = Math.min(scroll.top, room) - (place - first * height_)
  const frame = useRef(0)
  const before = useRef(0)
  const jumps = useRef(0)
  const landing = useRef<ReturnType<typeof setTimeout>>(undefined)
  const perPixel = full / Math.max(height, 1)
  // Scrolling tells of itself more often than the page is drawn.
  const onScroll = useCallback(
    (e: React.UIEvent<HTMLElement>) => {
      const { scrollTop, scrollLeft } = e.currentTarget
      cancelAnimationFrame(frame.current)
      frame.current = requestAnimationFrame(() => {
        // One jump is a jump; several after another are a flight.
        const far = Math.abs(scrollTop - before.current) * perPixel > passed * boxHeight
        jumps.current = far ? jumps.current + 1 : 0
        const flying = jumps.current > 1
        before.current = scrollTop
        clearTimeout(landing.current)
        landing.current = setTimeout(() => {
          jumps.current = 0
          setScroll(s => (s.flying ? { ...s, flying: false } : s))
        }, settled)
        flushSync(() => setScroll({ top: scrollTop, left: scrollLeft, flying }))
      })
    },
    [boxHeight, perPixel],
  )
  /** Where the box is to be scrolled for a line to stand at the top. */
  const topOf = (line: number) =>
    (Math.min(line * height_, Math.max(full - boxHeight, 0)) / Math.max(full - boxHeight, 1)) * room
  return {
    window: { first, last, height, offset, top: Math.floor(place / height_) } as Window,
    left: scroll.left,
    flying: scroll.flying,
    topOf,
    onScroll,
  }
}
