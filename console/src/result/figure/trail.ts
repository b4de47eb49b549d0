import type { Schemas } from '../../api/client'
import { readingIn, write, type Reading } from '../reading'

/** A figure that was opened: where it stood, and the address then. */
export type Step = {
  /** The address before, without its trail. */
  from: string
  view: string
  path: string
  across: string
  of: string
  /** The row that the figure stood in, where the source grouped it. */
  row?: number
}

/** Where a figure stands in a sheet. */
export type FigureAt = { path: string; across: string; of: string; row?: number }

export function trailIn(params: URLSearchParams): Step[] {
  return params.getAll('trail').flatMap(t => {
    try {
      const s = JSON.parse(t) as Step
      return typeof s.from === 'string' && typeof s.view === 'string' ? [s] : []
    } catch {
      return []
    }
  })
}

/** The reading that a figure stood in. */
export function readingOf(step: Step): Reading {
  return readingIn(new URLSearchParams(step.from), step.view)
}

/** The address of the place where a step began. */
export function back(trail: Step[], at: number) {
  const params = new URLSearchParams(trail[at].from)
  trail.slice(0, at).forEach(s => params.append('trail', JSON.stringify(s)))
  return params
}

/** The address of the rows behind a figure, or of these grouped by something. */
export function opened(
  now: URLSearchParams,
  step: Step,
  to: Schemas['OpenedFigure'],
  by: string | undefined,
) {
  const params = new URLSearchParams({ view: to.view })
  write(params, to.view, {
    filter: to.filters,
    add: to.add,
    group: by ? [by] : [],
    entries: readingOf(step).entries,
  })
  now.getAll('trail').forEach(t => params.append('trail', t))
  params.append('trail', JSON.stringify(step))
  return params
}

export function stepFrom(now: URLSearchParams, view: string, cell: FigureAt): Step {
  const from = new URLSearchParams(now)
  from.delete('trail')
  from.delete('hand')
  return { from: from.toString(), view, ...cell }
}
