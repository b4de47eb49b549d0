import { Button, Select, TextInput } from '@mantine/core'
import { useState } from 'react'
import type { Sheet } from '../api/client'

type Props = { sheet: Sheet; onAdd: (filter: string) => void }

const empties = [{ value: '= ', label: 'is empty' }, { value: '<> ', label: 'is not empty' }]
const compares = [{ value: '>=', label: 'is at least' }, { value: '<=', label: 'is at most' }, { value: '=', label: 'is' }]
const tests = {
  text: [{ value: '~', label: 'holds' }, { value: '=', label: 'is one of' }, { value: '<>', label: 'is none of' }, ...empties],
  number: [...compares, { value: '<>', label: 'is not' }, ...empties],
  day: [{ value: '=', label: 'lies in' }, { value: '>=', label: 'lies in or after' }, { value: '<=', label: 'lies in or before' }, ...empties],
  flag: [{ value: '=yes', label: 'is yes' }, { value: '=no', label: 'is no' }, ...empties],
}
const hints = { text: '', number: 'such as 12.50', day: '2026-09, last month, 2026-09-30', flag: '' }

/** One test of one column. */
export function FilterForm({ sheet, onAdd }: Props) {
  const [column, setColumn] = useState(sheet.columns[0]?.id ?? '')
  const sort = sortOf(sheet.columns.find((c) => c.id === column)?.kind)
  const [test, setTest] = useState<string>()
  const [value, setValue] = useState('')
  const chosen = test && tests[sort].some((t) => t.value === test) ? test : tests[sort][0].value
  const whole = sort === 'flag' || chosen.endsWith(' ')
  const add = () => (whole || value.trim()) && onAdd(column + chosen.trim() + (whole ? '' : value.trim()))
  return (
    <form onSubmit={(e) => (e.preventDefault(), add())}>
      <Select size="sm" label="Column" data={sheet.columns.map((c) => ({ value: c.id, label: c.heading }))} value={column} onChange={(c) => c && setColumn(c)} comboboxProps={{ withinPortal: false }} allowDeselect={false} />
      <Select size="sm" mt={6} label="Test" data={tests[sort]} value={chosen} onChange={(t) => t && setTest(t)} comboboxProps={{ withinPortal: false }} allowDeselect={false} />
      {!whole && <TextInput size="sm" mt={6} label="Value" name="filter-value" placeholder={sort === 'text' && chosen !== '~' ? 'several with ; between' : hints[sort]} value={value} onChange={(e) => setValue(e.currentTarget.value)} />}
      <Button size="xs" mt="sm" type="submit">Filter</Button>
    </form>
  )
}

function sortOf(kind: string | undefined): keyof typeof tests {
  if (kind === 'flag') return 'flag'
  if (kind === 'date' || kind === 'timestamp') return 'day'
  return kind === 'text' || kind === undefined ? 'text' : 'number'
}
