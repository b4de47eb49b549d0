import type { FieldProps } from './props'
import { Companions } from './Companions'
import { FieldFrame } from './FieldFrame'
import { RangeInput } from './RangeInput'
import { tiesOf } from './ties'

/** A range of days or times, with the periods it is compared with where the report allows it. */
export function RangeField(props: FieldProps) {
  const { parameter, value, onChange, fault, says } = props
  const id = `field-${parameter.id}`
  const [main, others] = parameter.compare ? apart(value) : [value, []]
  return (
    <FieldFrame
      {...props}
      id={id}
      hint={
        says && (
          <span data-resolved={parameter.id}>
            {says}
            {parameter.longest && ` (at most ${parameter.longest})`}
          </span>
        )
      }
    >
      <RangeInput
        id={id}
        name={parameter.id}
        label={parameter.label}
        value={main}
        time={parameter.time}
        wrong={Boolean(fault)}
        ties={tiesOf(props)}
        onChange={v => onChange(together(v, others))}
      />
      {parameter.compare && (
        <Companions parameter={parameter.id} chosen={others} onChange={o => onChange(together(main, o))} />
      )}
    </FieldFrame>
  )
}

/** A value such as "last month against year before and 2024-09", taken apart. */
function apart(value: string): [string, string[]] {
  const [main, others] = value.split(' against ')
  return [main, others ? others.split(' and ') : []]
}

function together(main: string, others: string[]) {
  const named = others.filter(Boolean)
  return named.length ? `${main} against ${named.join(' and ')}` : main
}
