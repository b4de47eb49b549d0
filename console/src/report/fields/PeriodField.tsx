import { Autocomplete } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'

/** One period of the data's grain or a coarser one. */
export function PeriodField(props: FieldProps) {
  const { parameter, value, onChange, fault, says, periods = [] } = props
  const id = `field-${parameter.id}`
  const meant = new Map(periods.map(p => [p.name, p.says]))
  return (
    <FieldFrame {...props} id={id} hint={says && <span data-resolved={parameter.id}>{says}</span>}>
      <Autocomplete
        {...tiesOf(props)}
        id={id}
        name={parameter.id}
        openOnFocus={false}
        value={value}
        onChange={onChange}
        error={Boolean(fault)}
        maw="18rem"
        data={[...meant.keys()]}
        placeholder={parameter.required ? undefined : 'any'}
        filter={({ options }) => options}
        maxDropdownHeight={320}
        renderOption={({ option }) => (
          <span>
            {option.value}{' '}
            <small style={{ color: 'var(--mantine-color-dimmed)' }}>{meant.get(option.value)}</small>
          </span>
        )}
      />
    </FieldFrame>
  )
}
