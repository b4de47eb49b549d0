import { Button, Group, Modal, Select, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { answer, api, type Parcel } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { moment, size } from '../parts/said'

type Wanted = Parcel['state'] | ''

/** Everything that was to be sent, with what became of it; what failed is mended here. */
export function Parcels({ opened }: { opened: string | undefined }) {
  const [state, setState] = useState<Wanted>('')
  const [, setParams] = useSearchParams()
  const parcels = useQuery({
    queryKey: ['parcels', state],
    queryFn: () =>
      answer(api.GET('/parcels', { params: { query: { state: state || undefined, limit: 200 } } })),
    refetchInterval: 5_000,
  })
  if (parcels.error) return <Failure error={parcels.error} again={() => parcels.refetch()} />
  const chosen = parcels.data?.find(p => p.id === opened)
  return (
    <>
      <List
        title="Sending"
        heads={['Parcel', 'Made', 'State', 'What', 'To', 'Files']}
        tools={
          <Select
            size="xs"
            aria-label="State"
            data={[{ value: '', label: 'everything' }, 'waiting', 'sent', 'failed', 'stopped']}
            value={state}
            onChange={s => setState((s ?? '') as Wanted)}
            allowDeselect={false}
          />
        }
        empty={
          parcels.data?.length === 0 && (
            <State
              title="Nothing was sent"
              said="Send a result from its page, or give a run control recipients."
            />
          )
        }
      >
        {parcels.data?.map(p => (
          <tr key={p.id}>
            <td>
              <button className="act" onClick={() => setParams({ parcel: p.id })}>
                {p.id}
              </button>
            </td>
            <td>{moment(p.madeAt)}</td>
            <td data-state={p.state}>
              {p.state}
              {p.state === 'waiting' && p.tries > 0 ? `, tried ${p.tries} times` : ''}
            </td>
            <td style={{ whiteSpace: 'normal' }}>
              {p.title} {p.reason && <span className="dim">{p.reason}</span>}
            </td>
            <td style={{ whiteSpace: 'normal' }}>
              {p.target ?? p.recipients.map(r => r.name || r.address).join(', ')}
            </td>
            <td>{p.files.length || ''}</td>
          </tr>
        ))}
      </List>
      <Modal opened={Boolean(chosen)} onClose={() => setParams({})} size="lg" title={chosen?.title}>
        {chosen && <Opened key={chosen.id + chosen.state} parcel={chosen} />}
      </Modal>
    </>
  )
}

function Opened({ parcel: p }: { parcel: Parcel }) {
  const client = useQueryClient()
  const [instead, setInstead] = useState<Record<string, string>>({})
  const done = () => client.invalidateQueries({ queryKey: ['parcels'] })
  const again = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/parcels/{parcel}/again', {
          params: { path: { parcel: p.id } },
          body: {
            instead: Object.fromEntries(Object.entries(instead).filter(([from, to]) => to && to !== from)),
          },
        }),
      ),
    onSuccess: done,
  })
  const stop = useMutation({
    mutationFn: () => answer(api.POST('/parcels/{parcel}/stop', { params: { path: { parcel: p.id } } })),
    onSuccess: done,
  })
  const error = again.error ?? stop.error
  const open = p.state === 'failed' || p.state === 'waiting' || p.state === 'stopped'
  return (
    <>
      <p>
        {p.id}, {p.state}
        {p.tries > 0 && ` after ${p.tries} ${p.tries === 1 ? 'try' : 'tries'}`}
        {p.nextAt && p.state === 'waiting' && `, next ${moment(p.nextAt)}`}
        {p.endedAt && `, ${moment(p.endedAt)}`}.{' '}
        {p.result && <Link to={`/results/${p.result}`}>{p.result}</Link>}
      </p>
      {p.reason && <p className="told">{p.reason}</p>}
      <ul>
        {p.recipients.map(r => (
          <li key={r.address}>
            {r.line}: {r.name} &lt;{r.address}&gt; – {r.state}{' '}
            <span className="dim">{r.state !== 'sent' && r.answer}</span>
            {open && r.state !== 'sent' && (
              <TextInput
                size="xs"
                w="20rem"
                aria-label={`Instead of ${r.address}`}
                placeholder="to another address instead"
                value={instead[r.address] ?? ''}
                onChange={e => setInstead({ ...instead, [r.address]: e.currentTarget.value.trim() })}
              />
            )}
          </li>
        ))}
        {p.files.map(f => (
          <li key={f.name}>
            {f.name}, {size(f.bytes)}
          </li>
        ))}
      </ul>
      {error && (
        <p className="told" role="alert">
          {error.message}
        </p>
      )}
      {open && (
        <Group>
          <Button loading={again.isPending} onClick={() => again.mutate()}>
            Try again now
          </Button>
          {p.state !== 'stopped' && (
            <Button variant="light" color="brick" loading={stop.isPending} onClick={() => stop.mutate()}>
              Do not send it
            </Button>
          )}
        </Group>
      )}
    </>
  )
}
