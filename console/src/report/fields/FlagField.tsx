import { SegmentedControl } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'

/** Yes, no or, where nothing is needed, either. */
export function FlagField(props: FieldProps) {
  const { parameter, value, onChange } = props
  const choices = [
    { value: 'yes', label: 'Yes' },
    { value: 'no', label: 'No' },
  ]
  if (!parameter.required) choices.unshift({ value: '', label: 'Either' })
  return (
    <FieldFrame {...props}>
      <SegmentedControl
        name={parameter.id}
        aria-label={parameter.label}
        color="sea.7"
        data={choices}
        value={value}
        onChange={onChange}
        display="flex"
        w="fit-content"
      />
    </FieldFrame>
  )
}
