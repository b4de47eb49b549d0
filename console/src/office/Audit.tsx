import { Button, Group, Select, TextInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useInfiniteQuery, useMutation } from '@tanstack/react-query'
import { Fragment, useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Schemas } from '../api/client'
import { count, moment } from '../parts/said'
import classes from './Office.module.css'
import { at } from '../api/below'
import { Rows } from '../parts/Rows'

const page = 100
const outcomes = ['done', 'refused', 'failed'] as const
const kinds = ['result', 'report', 'person', 'group', 'control', 'source', 'draft', 'parcel', 'service']

/** Who did what, the newest first: searched, checked, taken away. */
export function Audit() {
  const [typed, setTyped] = useState({ person: '', text: '' })
  const [said] = useDebouncedValue(typed, 250)
  const [outcome, setOutcome] = useState<(typeof outcomes)[number] | null>(null)
  const [kind, setKind] = useState<string | null>(null)
  const query = {
    person: said.person.trim() || undefined,
    text: said.text.trim() || undefined,
    outcome: outcome ?? undefined,
    kind: kind ?? undefined,
    limit: page,
  }
  const pages = useInfiniteQuery({
    queryKey: ['audit', query],
    queryFn: ({ pageParam }) =>
      answer(api.GET('/audit', { params: { query: { ...query, before: pageParam } } })),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: last => (last.length < page ? undefined : last[last.length - 1].number),
    placeholderData: keepPreviousData,
  })
  const check = useMutation({ mutationFn: () => answer(api.GET('/audit/check')) })
  const lines = pages.data?.pages.flat()
  return (
    <section aria-label="Audit">
      <Group gap="sm" mb="sm" align="end">
        <TextInput
          size="xs"
          label="Who"
          placeholder="an account"
          value={typed.person}
          onChange={e => setTyped({ ...typed, person: e.currentTarget.value })}
        />
        <Select
          size="xs"
          label="Did something to a"
          placeholder="any"
          data={kinds}
          value={kind}
          onChange={setKind}
          clearable
        />
        <Select
          size="xs"
          label="Outcome"
          placeholder="any"
          data={outcomes}
          value={outcome}
          onChange={o => setOutcome(o as typeof outcome)}
          clearable
        />
        <TextInput
          size="xs"
          label="In which stands"
          placeholder="R-000012, an address"
          value={typed.text}
          onChange={e => setTyped({ ...typed, text: e.currentTarget.value })}
        />
        <Button size="xs" variant="default" loading={check.isPending} onClick={() => check.mutate()}>
          Check that it is whole
        </Button>
        <Button size="xs" variant="default" component="a" href={at('/api/audit/file')} download>
          Take it away
        </Button>
      </Group>
      <div role="status">{check.data && <Checked found={check.data} />}</div>
      {(pages.error ?? check.error) && (
        <p className={classes.wrong} role="alert">
          {(pages.error ?? check.error)?.message}
        </p>
      )}
      {lines?.length === 0 && <p>Nothing that was done is as this says.</p>}
      {lines && lines.length > 0 && (
        <Rows heads={['At', 'Who', 'Did', 'To', 'Outcome']}>
          {lines.map(l => (
            <Line key={l.number} line={l} />
          ))}
        </Rows>
      )}
      {pages.hasNextPage && (
        <Button
          size="xs"
          variant="default"
          loading={pages.isFetchingNextPage}
          onClick={() => pages.fetchNextPage()}
        >
          Earlier
        </Button>
      )}
    </section>
  )
}

function Checked({ found: f }: { found: Schemas['AuditCheck'] }) {
  if (!f.whole)
    return (
      <p className={classes.wrong} data-audit="broken">
        {f.fault}. The {count(f.lines, 'line', 'lines')} before it are whole; compare with what was sent on,
        or with a back-up.
      </p>
    )
  return (
    <p data-audit="whole">
      It is whole: {count(f.lines, 'line', 'lines')}, the last with the digest{' '}
      <code>{f.digest.slice(0, 16)}</code>.
    </p>
  )
}

function Line({ line: l }: { line: Schemas['AuditLine'] }) {
  const more = [l.before && l.after ? `${l.before} → ${l.after}` : (l.after ?? l.before), l.why].filter(
    Boolean,
  )
  return (
    <tr data-outcome={l.outcome}>
      <td title={`line ${l.number}`}>{moment(l.at)}</td>
      <td>
        {l.person ?? (l.face === 'service' ? 'the service' : 'a stranger')}
        <div className="dim">{[l.face, l.address].filter(Boolean).join(', ')}</div>
      </td>
      <td>
        {l.says}
        {more.map((text, i) => (
          <div key={i} className="dim">
            {text}
          </div>
        ))}
      </td>
      <td>
        <Thing line={l} />
      </td>
      <td className={l.outcome === 'done' ? undefined : classes.wrong}>{l.outcome}</td>
    </tr>
  )
}

/** What something was done to, with a way there. */
function Thing({ line: l }: { line: Schemas['AuditLine'] }) {
  const to: Record<string, string> = { result: 'results', report: 'reports', control: 'controls' }
  const place = l.kind && to[l.kind]
  return (
    <Fragment>
      {l.kind} {place && l.id ? <Link to={`/${place}/${l.id}`}>{l.id}</Link> : l.id}
      {l.part && <div className="dim">{l.part}</div>}
    </Fragment>
  )
}
