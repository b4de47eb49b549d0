import { useMemo, useState } from 'react'

/** A cell: its line, and its place among the columns that are not folded away. */
export type Place = { line: number; at: number }

/** A rectangle of cells, both ends within it. */
export type Area = { first: number; last: number; left: number; right: number }

function areaOf(a: Place, b: Place): Area {
  return {
    first: Math.min(a.line, b.line),
    last: Math.max(a.line, b.line),
    left: Math.min(a.at, b.at),
    right: Math.max(a.at, b.at),
  }
}

/** How many cells an area has. */
export function cellsOf(a: Area) {
  return (a.last - a.first + 1) * (a.right - a.left + 1)
}

/** The cell of a sheet that an element is in, or is; none in headings, totals and names of groups. */
function placeOf(target: EventTarget, before: number, from: number): Place | undefined {
  const cell = (target as HTMLElement).closest<HTMLElement>('[data-kind] > *')
  const row = cell?.parentElement
  if (!cell || !row) return
  const at = Array.prototype.indexOf.call(row.children, cell) - before
  const line = Number(row.getAttribute('aria-rowindex')) - 2
  return at < 0 ? undefined : { line, at: at + from }
}

/**
 * Picking cells: by dragging over them, by Shift with a click, and from the cell at hand by Shift with
 * arrows. Before is how many elements of a line stand before its cells, from the place of the first.
 */
export function usePicking(before: number, from: number, columns: number, lines: number) {
  const [ends, setEnds] = useState<[Place, Place]>()
  const [begun, setBegun] = useState<Place>()
  const [dragged, setDragged] = useState(false)
  const area = useMemo(() => ends && areaOf(...ends), [ends])
  const known = (p: Place | undefined) => (p && p.at < columns && p.line < lines ? p : undefined)
  return {
    area,
    clear: () => setEnds(undefined),
    all: () =>
      setEnds([
        { line: 0, at: 0 },
        { line: lines - 1, at: columns - 1 },
      ]),
    /** Moves the far end by a step; the near one is the cell at hand, or all of its line. */
    extend: (hand: Place, down: number, aside: number): Place => {
      const whole = hand.at < 0
      const [near, far] = ends ?? [
        { line: hand.line, at: Math.max(hand.at, 0) },
        { line: hand.line, at: whole ? columns - 1 : hand.at },
      ]
      const to = {
        line: Math.min(Math.max(far.line + down, 0), lines - 1),
        at: Math.min(Math.max(far.at + aside, 0), columns - 1),
      }
      setEnds([near, to])
      return to
    },
    pointer: {
      onPointerDown: (e: React.PointerEvent) => {
        const at = e.button === 0 ? known(placeOf(e.target, before, from)) : undefined
        setDragged(false)
        if (at && e.shiftKey && (ends || begun)) {
          setEnds([ends?.[0] ?? begun!, at])
          return setDragged(true)
        }
        setBegun(at)
        if (ends) setEnds(undefined)
      },
      onPointerMove: (e: React.PointerEvent) => {
        if (!begun || !(e.buttons & 1) || e.pointerType === 'touch') return
        const at = known(placeOf(e.target, before, from))
        if (!at || (!dragged && at.line === begun.line && at.at === begun.at)) return
        document.getSelection()?.removeAllRanges()
        setDragged(true)
        setEnds([begun, at])
      },
      /** The click that ends a dragging opens nothing. */
      onClickCapture: (e: React.MouseEvent) => {
        if (!dragged) return
        e.stopPropagation()
        e.preventDefault()
        setDragged(false)
      },
    },
    picking: dragged,
  }
}
