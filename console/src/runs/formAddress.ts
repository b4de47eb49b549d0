import type { Values } from '../api/client'

/** The address of a report's form, filled in with the values of a run or result. */
export function formAddress({ report, values }: { report: string; values: Values }) {
  return `/reports/${report}?${new URLSearchParams(values)}`
}
