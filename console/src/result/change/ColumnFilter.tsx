import { Button, Checkbox, Group, Text, TextInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Sheet } from '../../api/client'
import { query, type Change, type Reading } from '../reading'
import classes from './ColumnFilter.module.css'
import { bare, bareDay, isoDay, number, plain } from '../../parts/form'

type Props = {
  result: string
  sheet: Sheet
  reading: Reading
  column: { id: string; heading: string; kind: string }
  onChange: Change
}

// Bounds are typed in the person's form, and sent in the service's.
const sent = (typed: string) => isoDay(plain(typed.trim()))
const typedAs = (value: string) => bareDay(bare(value))

/** What a column holds among the rows that meet the filters on others. */
export function useValues(
  result: string,
  sheet: Sheet,
  reading: Reading,
  column: string,
  search: string,
  enabled = true,
) {
  const view = sheet.kept?.id ?? sheet.view
  return useQuery({
    queryKey: ['values', result, view, reading, column, search],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/values', {
          params: { path: { result, view }, query: { ...query(reading), of: column, search, limit: 100 } },
        }),
      ),
    staleTime: Infinity,
    enabled,
  })
}

/** The values of a column with how many rows have each; ranges and a search for texts. */
export function FilterBox({
  result,
  sheet,
  reading,
  column,
  onChange,
  onDone,
}: Props & { onDone: () => void }) {
  const own = sheet.filters.filter(f => f.column === column.id)
  const equal = own.find(f => f.test === '=')
  const [search, setSearch] = useState('')
  const [sought] = useDebouncedValue(search, 200)
  const [from, setFrom] = useState(typedAs(own.find(f => f.test === '>=')?.value ?? ''))
  const [to, setTo] = useState(typedAs(own.find(f => f.test === '<=')?.value ?? ''))
  const [holds, setHolds] = useState(own.find(f => f.test === '~')?.value ?? '')
  const [picked, setPicked] = useState<string[]>(equal?.value ? splitValues(equal.value) : [])
  const values = useValues(result, sheet, reading, column.id, sought)
  const text = column.kind === 'text'
  const others = reading.filter.filter(t => !own.some(f => f.text === t))
  const apply = (filters: string[]) => {
    onChange({ filter: [...others, ...filters] })
    onDone()
  }
  const submit = () =>
    apply([
      ...(picked.length ? [`${column.id}=${picked.join(';')}`] : []),
      ...(from.trim() ? [`${column.id}>=${sent(from)}`] : []),
      ...(to.trim() ? [`${column.id}<=${sent(to)}`] : []),
      ...(holds.trim() ? [`${column.id}~${holds.trim()}`] : []),
    ])
  const v = values.data
  return (
    <form onSubmit={e => (e.preventDefault(), e.stopPropagation(), submit())}>
      <Text fw={600} size="sm">
        {column.heading}
      </Text>
      {text ? (
        <TextInput
          size="xs"
          mt={4}
          label="Holds"
          name="holds"
          data-autofocus
          value={holds}
          onChange={e => setHolds(e.currentTarget.value)}
        />
      ) : (
        column.kind !== 'flag' && (
          <Group gap={6} mt={4} grow>
            <TextInput
              size="xs"
              label="From"
              name="from"
              data-autofocus
              placeholder={v?.low}
              value={from}
              onChange={e => setFrom(e.currentTarget.value)}
            />
            <TextInput
              size="xs"
              label="To"
              name="to"
              placeholder={v?.high}
              value={to}
              onChange={e => setTo(e.currentTarget.value)}
            />
          </Group>
        )
      )}
      <TextInput
        size="xs"
        mt={6}
        label={v ? `Values (${number(v.of)})` : 'Values'}
        name="search-values"
        placeholder="search"
        value={search}
        onChange={e => setSearch(e.currentTarget.value)}
      />
      <div className={classes.values}>
        {v?.items.map(i => (
          <label key={i.filter}>
            <Checkbox
              size="xs"
              color="sea.7"
              checked={picked.includes(i.filter)}
              onChange={() =>
                setPicked(p => (p.includes(i.filter) ? p.filter(x => x !== i.filter) : [...p, i.filter]))
              }
            />
            <span>{i.text}</span>
            <span className="dim figure">{number(i.rows)}</span>
          </label>
        ))}
        {v && v.empty > 0 && (
          <button type="button" className="act" onClick={() => apply([`${column.id}=`])}>
            {number(v.empty)} without a value
          </button>
        )}
        {values.error && <p className="told">{values.error.message}</p>}
      </div>
      <Group gap={6} mt="sm">
        <Button size="compact-sm" type="submit">
          Filter
        </Button>
        {own.length > 0 && (
          <Button size="compact-sm" variant="subtle" onClick={() => apply([])}>
            Remove
          </Button>
        )}
      </Group>
    </form>
  )
}

/** The values of a filter one by one; those in quotes may hold semicolons. */
function splitValues(list: string) {
  return [...list.matchAll(/\s*('(?:[^']|'')*'|[^;]+)\s*(?:;|$)/g)].map(m => m[1].trim())
}
