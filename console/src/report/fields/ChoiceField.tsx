import { Button, Chip, Group, MultiSelect } from '@mantine/core'
import { codesIn, type FieldProps } from './Field'
import { FieldFrame } from './FieldFrame'
import { useEntries } from './entries'

/** Lists no longer than this are shown as chips. */
const chipsUpTo = 14

/** One or several entries of a list. Labels and codes that were typed in a link count as chosen too. */
export function ChoiceField(props: FieldProps) {
  const { report, parameter, value, onChange } = props
  const list = useEntries(report, parameter.id, '', 500)
  const entries = list.data ?? []
  const typed = codesIn(value)
  const chosen = typed.map((t) => entries.find((e) => same(e.code, t) || same(e.label, t))?.code ?? t)
  const set = (codes: string[]) => onChange(codes.join('; '))
  const one = (code: string) => set(chosen.includes(code) ? [] : [code])
  if (entries.length > chipsUpTo) {
    return (
      <FieldFrame {...props}>
        <MultiSelect name={parameter.id} aria-label={parameter.label} searchable maxValues={parameter.many ? undefined : 1}
          data={entries.map((e) => ({ value: e.code, label: e.label }))} value={chosen} onChange={set} />
      </FieldFrame>
    )
  }
  return (
    <FieldFrame {...props} hint={chosen.length === 0 ? parameter.all || undefined : undefined}>
      <Group gap={6} role="group" aria-label={parameter.label}>
        {entries.map((e) => (
          <Chip
            key={e.code} variant="outline" color="sea.7" size="sm" checked={chosen.includes(e.code)} title={e.current ? e.code : `${e.code}, no longer in use`}
            onChange={() => (parameter.many ? set(chosen.includes(e.code) ? chosen.filter((c) => c !== e.code) : [...chosen, e.code]) : one(e.code))}
          >
            {e.current ? e.label : <s>{e.label}</s>}
          </Chip>
        ))}
        {parameter.many && entries.length > 2 && (
          <Button size="compact-xs" variant="subtle" onClick={() => set(chosen.length ? [] : entries.map((e) => e.code))}>{chosen.length ? 'None' : 'All'}</Button>
        )}
      </Group>
    </FieldFrame>
  )
}

function same(a: string, b: string) {
  return a.localeCompare(b, undefined, { sensitivity: 'base' }) === 0
}
