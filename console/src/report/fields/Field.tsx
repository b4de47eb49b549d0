import type { Fault, Parameter } from '../../api/client'
import { ChoiceField } from './ChoiceField'
import { DateField } from './DateField'
import { EntityField } from './EntityField'
import { FlagField } from './FlagField'
import { RangeField } from './RangeField'
import { TextField } from './TextField'
import { UnitField } from './UnitField'

/** What every field is given. Values are texts, as a person would type them. */
export type FieldProps = {
  report: string
  parameter: Parameter
  value: string
  /** What is wrong with the value, if anything. */
  fault?: Fault
  /** What the value comes to today, in words. */
  says?: string
  onChange: (value: string) => void
}

const fields = {
  text: TextField,
  integer: TextField,
  decimal: TextField,
  flag: FlagField,
  date: DateField,
  range: RangeField,
  unit: UnitField,
  entity: EntityField,
  choice: ChoiceField,
}

/** The field that suits a parameter's type. */
export function Field(props: FieldProps) {
  const Suited = fields[props.parameter.type]
  return <Suited {...props} />
}

/** The codes in a value that lists several. */
export function codesIn(value: string): string[] {
  return value.split(';').map((c) => c.trim()).filter(Boolean)
}
