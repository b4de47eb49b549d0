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
import type { FieldProps } from './props'
import { UnitField } from './UnitField'

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
