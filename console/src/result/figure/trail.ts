import { readingIn, write, type Reading } from '../reading'

/** A figure that was opened: where it stood, and the address then. */
export type Step = {
  /** The address before, without its trail. */
  from: string
  view: string
  path: string
  across: string
  of: string
}

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
  view: string,
  filters: string[],
  by: string | undefined,
) {
  const params = new URLSearchParams({ view })
  const before = readingOf(step)
  write(params, view, { filter: [...before.filter, ...filters], add: before.add, group: by ? [by] : [] })
  now.getAll('trail').forEach(t => params.append('trail', t))
  params.append('trail', JSON.stringify(step))
  return params
}

export function stepFrom(
  now: URLSearchParams,
  view: string,
  cell: { path: string; across: string; of: string },
): Step {
  const from = new URLSearchParams(now)
  from.delete('trail')
  from.delete('hand')
  return { from: from.toString(), view, ...cell }
}
