import { TextInput } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'

/** A value that is shown and cannot be changed. */
export function LockedField(props: FieldProps) {
  const id = `field-${props.parameter.id}`
  return (
    <FieldFrame {...props} id={id} hint="locked by the report's author">
      <TextInput
        {...tiesOf(props)}
        id={id}
        name={props.parameter.id}
        value={props.value}
        disabled
        maw="18rem"
      />
    </FieldFrame>
  )
}
