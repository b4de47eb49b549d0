import { TextInput } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'

/** A text or a number. */
export function TextField(props: FieldProps) {
  const { parameter, value, onChange, fault } = props
  const id = `field-${parameter.id}`
  const number = parameter.type !== 'text'
  return (
    <FieldFrame {...props} id={id} hint={limits(props)}>
      <TextInput
        {...tiesOf(props)}
        id={id}
        name={parameter.id}
        value={value}
        error={Boolean(fault)}
        inputMode={number ? 'decimal' : 'text'}
        maw={number ? '12rem' : undefined}
        placeholder={parameter.required ? undefined : 'any'}
        onChange={e => onChange(e.currentTarget.value)}
      />
    </FieldFrame>
  )
}

function limits({ parameter: { min, max } }: FieldProps) {
  if (min && max) return `${min} to ${max}`
  if (min) return `at least ${min}`
  if (max) return `at most ${max}`
  return undefined
}
