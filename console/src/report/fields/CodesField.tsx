import { Autocomplete, Group } from '@mantine/core'
import type { FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { tiesOf } from './ties'

/** From one code of a list to another, each looked up as one types. */
export function CodesField(props: FieldProps) {
  const { parameter, value, onChange, fault, says, list = [] } = props
  const [first, last = first] = value.split('..')
  const label = new Map(list.map(e => [e.code, e.label]))
  const end = (at: 'first' | 'last', code: string) => (
    <Autocomplete
      {...tiesOf(props)}
      w="12rem"
      openOnFocus={false}
      name={at === 'first' ? parameter.id : `${parameter.id}-last`}
      aria-label={`${parameter.label}, ${at === 'first' ? 'from' : 'to'}`}
      description={at === 'first' ? 'from' : 'to'}
      error={Boolean(fault)}
      data={list.map(e => e.code)}
      value={code}
      onChange={c => onChange(at === 'first' ? `${c}..${last}` : `${first}..${c}`)}
      filter={({ options, search }) =>
        options.filter(
          o =>
            'value' in o && `${o.value} ${label.get(o.value)}`.toLowerCase().includes(search.toLowerCase()),
        )
      }
      renderOption={({ option }) => (
        <span>
          {option.value} <small>{label.get(option.value)}</small>
        </span>
      )}
    />
  )
  return (
    <FieldFrame {...props} hint={says}>
      <Group gap="md">
        {end('first', first)}
        {end('last', last)}
      </Group>
    </FieldFrame>
  )
}
