import type { Entry, Fault, Parameter, Preset } from '../../api/client'

/** What every field is given. Values are texts, as a person would type them. */
export type FieldProps = {
  report: string
  parameter: Parameter
  value: string
  /** What is wrong with the value, if anything. */
  fault?: Fault
  /** What the value comes to today, in words. */
  says?: string
  /** The entries of its list, where that is not too long. */
  list?: Entry[]
  /** The periods worth offering. */
  periods?: Preset[]
  /** Where what stands at first comes from, if it is the person's own. */
  from?: string
  /** Entries that were left out because another value rules them out. */
  dropped?: string[]
  /** Values that narrow the list, as NAME=VALUE. */
  given: string[]
  onChange: (value: string) => void
}

/** The codes in a value that lists several. */
export function codesIn(value: string): string[] {
  return value
    .split(';')
    .map(c => c.trim())
    .filter(Boolean)
}
