import type { Entry, Fault, Parameter, Preset } from '../../api/client'
import { ChoiceField } from './ChoiceField'
import { CodesField } from './CodesField'
import { ColumnsField } from './ColumnsField'
import { DateField } from './DateField'
import { EntityField } from './EntityField'
import { FlagField } from './FlagField'
import { LockedField } from './LockedField'
import { PeriodField } from './PeriodField'
import { RangeField } from './RangeField'
import { RangesField } from './RangesField'
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

const fields = {
  text: TextField,
  integer: TextField,
  decimal: TextField,
  money: TextField,
  horizon: TextField,
  newest: TextField,
  flag: FlagField,
  date: DateField,
  range: RangeField,
  ranges: RangesField,
  period: PeriodField,
  unit: UnitField,
  entity: EntityField,
  choice: ChoiceField,
  codes: CodesField,
  columns: ColumnsField,
  grouping: ColumnsField,
}

/** The field that suits a parameter's type. */
export function Field(props: FieldProps) {
  const Suited = props.parameter.locked ? LockedField : fields[props.parameter.type]
  return <Suited {...props} />
}

/** The codes in a value that lists several. */
export function codesIn(value: string): string[] {
  return value.split(';').map((c) => c.trim()).filter(Boolean)
}
