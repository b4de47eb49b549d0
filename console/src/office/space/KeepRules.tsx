import { Autocomplete, Button, Checkbox, Group, NumberInput, Select } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Schemas } from '../../api/client'
import { Remove } from '../../parts/Remove'
import { count, dayAt, size } from '../../parts/said'
import { tellChanged } from '../../trash/undo'
import classes from '../Office.module.css'
import { Rows } from '../../parts/Rows'

type Rule = Schemas['KeepRule']
type Kind = Rule['kind']

const kinds: { value: Kind; label: string }[] = [
  { value: 'report', label: 'one report' },
  { value: 'category', label: 'one category' },
  { value: 'all', label: 'all others' },
]

/** How long results are kept: rules by report and category, each tried before it counts. */
export function KeepRules({ rules }: { rules: Rule[] }) {
  const client = useQueryClient()
  const [kind, setKind] = useState<Kind>('category')
  const [id, setId] = useState('')
  const [days, setDays] = useState<number>(400)
  const [final, setFinal] = useState(false)
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const of = { kind, id: kind === 'all' ? 'all' : id }
  const put = (only: boolean) =>
    answer(
      api.PUT('/rules/keep/{kind}/{id}', {
        params: { path: of, query: { try: only } },
        body: { days, final },
      }),
    )
  const tried = useMutation({ mutationFn: () => put(true) })
  const keep = useMutation({
    mutationFn: () => put(false),
    onMutate: () => rules.find(r => r.kind === of.kind && r.id === of.id),
    onSuccess: (_, __, was) => {
      if (was) tellChanged(`The rule of ${was.id}`, () => keepAs(was))
      tried.reset()
      void client.invalidateQueries({ queryKey: ['rules'] })
    },
  })
  const forget = async (r: Rule) => {
    await answer(api.DELETE('/rules/keep/{kind}/{id}', { params: { path: { kind: r.kind, id: r.id } } }))
    await client.invalidateQueries({ queryKey: ['rules'] })
  }
  const keepAs = (r: Rule) =>
    answer(
      api.PUT('/rules/keep/{kind}/{id}', {
        params: { path: { kind: r.kind, id: r.id }, query: {} },
        body: { days: r.days, final: r.final },
      }),
    )
  const names =
    kind === 'report'
      ? (catalog.data?.reports.map(r => r.id) ?? [])
      : [...new Set(catalog.data?.reports.map(r => r.category))].sort()
  const changed =
    <T,>(set: (v: T) => void) =>
    (v: T) => (set(v), tried.reset(), keep.reset())
  const fault = tried.error ?? keep.error
  return (
    <section aria-label="How long results are kept">
      <h2>How long results are kept</h2>
      {rules.length === 0 && (
        <p>There is no rule yet: results are kept until people or run controls end them.</p>
      )}
      {rules.length > 0 && (
        <Rows>
          {rules.map(r => (
            <tr key={r.kind + r.id}>
              <td>{r.kind === 'all' ? 'All others' : `${r.kind} ${r.id}`}</td>
              <td>{count(r.days, 'day', 'days')}</td>
              <td>{r.final ? 'then gone for good, held or not' : 'then in the trash, unless held'}</td>
              <td className="dim">
                {r.by}, {dayAt(r.at)}
              </td>
              <td>
                <Remove
                  name={`the rule of ${r.id}`}
                  says="Results that it would have ended are kept as long as other rules and their run controls say."
                  onRemove={() => forget(r)}
                  undo={() => keepAs(r)}
                />
              </td>
            </tr>
          ))}
        </Rows>
      )}
      <form onSubmit={e => (e.preventDefault(), tried.mutate())}>
        <Group align="flex-end">
          <Select
            label="Results of"
            data={kinds}
            value={kind}
            onChange={changed(v => setKind(v as Kind))}
            allowDeselect={false}
          />
          {kind !== 'all' && (
            <Autocomplete
              label={kind === 'report' ? 'Report' : 'Category'}
              data={names}
              value={id}
              onChange={changed(setId)}
              name="rule-of"
            />
          )}
          <NumberInput
            label="Days"
            value={days}
            min={1}
            max={36500}
            w="7rem"
            name="rule-days"
            onChange={changed(v => setDays(Number(v)))}
          />
          <Button type="submit" variant="default" loading={tried.isPending}>
            What would go?
          </Button>
        </Group>
        <Checkbox
          mt="sm"
          label="What is held goes too, and for good"
          checked={final}
          onChange={e => changed(setFinal)(e.currentTarget.checked)}
        />
      </form>
      {fault && (
        <p className={classes.wrong} role="alert">
          {fault.message}
        </p>
      )}
      {tried.data && (
        <>
          <Effect effect={tried.data} />
          <Button size="xs" loading={keep.isPending} onClick={() => keep.mutate()}>
            Keep the rule
          </Button>
        </>
      )}
    </section>
  )
}

function Effect({ effect: e }: { effect: Schemas['RuleEffect'] }) {
  if (e.results === 0) return <p data-rule="effect">Nothing would go now.</p>
  return (
    <>
      <p data-rule="effect">
        {count(e.results, 'result', 'results')} of {size(e.bytes)} would go within the hour, kept from{' '}
        {e.oldest && dayAt(e.oldest)} to {e.newest && dayAt(e.newest)}. The oldest:
      </p>
      <ul>
        {e.sample.map(s => (
          <li key={s.id}>
            <Link to={`/results/${s.id}`}>{s.id}</Link> {s.title}, {dayAt(s.keptAt)},{' '}
            {count(s.rows, 'row', 'rows')}
          </li>
        ))}
      </ul>
    </>
  )
}
