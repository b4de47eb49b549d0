import { TextInput } from '@mantine/core'
import { bare, plain, written } from '../../parts/form'
import { useTyped } from '../../parts/useTyped'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'

const same = (text: string) => text

/** A text or a number. */
export function TextField(props: FieldProps) {
  const { parameter, value, onChange, fault } = props
  const id = `field-${parameter.id}`
  const number = parameter.type !== 'text'
  const typing = useTyped(value, onChange, number ? bare : same, number ? plain : same)
  return (
    <FieldFrame {...props} id={id} hint={limits(props)}>
      <TextInput
        {...tiesOf(props)}
        id={id}
        name={parameter.id}
        value={typing.text}
        error={Boolean(fault)}
        inputMode={number ? 'decimal' : 'text'}
        maw={number ? '12rem' : undefined}
        placeholder={parameter.required ? undefined : 'any'}
        onChange={e => typing.type(e.currentTarget.value)}
      />
    </FieldFrame>
  )
}

function limits({ parameter: { min, max } }: FieldProps) {
  if (min && max) return `${written(min)} to ${written(max)}`
  if (min) return `at least ${written(min)}`
  if (max) return `at most ${written(max)}`
  return undefined
}
