import { Button, Group, Select } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { moment } from '../parts/said'
import { offerUndo } from '../trash/undo'
import classes from './Office.module.css'
import { Rows } from '../parts/Rows'

type Kind = Schemas['Retired']['kind']

const kinds: Record<Kind, string> = {
  source: 'source',
  parameter: 'shared parameter',
  group: 'group',
  address: 'address',
}

/** Sources, shared parameters, groups and addresses that nothing new is to use. */
export function RetiredThings() {
  const client = useQueryClient()
  const [kind, setKind] = useState<Kind>('source')
  const [id, setId] = useState<string | null>(null)
  const [successor, setSuccessor] = useState<string | null>(null)
  const retired = useQuery({ queryKey: ['retired'], queryFn: () => answer(api.GET('/retired')) })
  const known = useQuery({ queryKey: ['retirable', kind], queryFn: () => idsOf(kind) })
  const done = () => {
    setId(null)
    setSuccessor(null)
    return client.invalidateQueries()
  }
  const retire = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/retired/{kind}/{id}', {
          params: { path: { kind, id: id! } },
          body: successor ? { successor } : {},
        }),
      ),
    onSuccess: () => {
      const params = { path: { kind, id: id! } }
      offerUndo({
        id: id!,
        says: `“${id}” is retired.`,
        undo: () => answer(api.DELETE('/retired/{kind}/{id}', { params })),
      })
      return done()
    },
  })
  const end = useMutation({
    mutationFn: (r: Schemas['Retired']) =>
      answer(api.DELETE('/retired/{kind}/{id}', { params: { path: { kind: r.kind, id: r.id } } })),
    onSuccess: done,
  })
  const error = retire.error ?? end.error
  return (
    <>
      <p className="dim">
        What uses them goes on and is told what takes their place; nothing new does. Reports are retired under
        Reports, accounts are closed under People.
      </p>
      <Rows heads={['What', 'Id', 'Instead', 'Since', '']}>
        {retired.data?.map(r => (
          <tr key={r.kind + r.id}>
            <td>{kinds[r.kind]}</td>
            <td>{r.id}</td>
            <td>{r.successor ?? 'nothing'}</td>
            <td>
              {moment(r.at)} by {r.by}
            </td>
            <td>
              <button
                type="button"
                className="act"
                aria-label={`Use ${r.id} again`}
                onClick={() => end.mutate(r)}
              >
                Use again
              </button>
            </td>
          </tr>
        ))}
      </Rows>
      {retired.data?.length === 0 && <p>Nothing is retired.</p>}
      <form onSubmit={e => (e.preventDefault(), retire.mutate())}>
        <Group align="end" mt="md">
          <Select
            label="Retire a"
            allowDeselect={false}
            data={Object.entries(kinds).map(([value, label]) => ({ value, label }))}
            value={kind}
            onChange={k => (setKind(k as Kind), setId(null), setSuccessor(null))}
          />
          <Select label="Which" searchable data={known.data ?? []} value={id} onChange={setId} />
          <Select
            label="What takes its place"
            searchable
            clearable
            data={(known.data ?? []).filter(k => k !== id)}
            value={successor}
            onChange={setSuccessor}
          />
          <Button type="submit" disabled={!id} loading={retire.isPending}>
            Retire
          </Button>
        </Group>
      </form>
      {error && <p className={classes.wrong}>{error.message}</p>}
    </>
  )
}

/** The ids of a kind of things. */
async function idsOf(kind: Kind): Promise<string[]> {
  switch (kind) {
    case 'source':
      return (await answer(api.GET('/sources'))).map(s => s.id)
    case 'parameter':
      return (await answer(api.GET('/definitions/names'))).shared
    case 'group':
      return (await answer(api.GET('/groups'))).map(g => g.id)
    case 'address':
      return (await answer(api.GET('/addresses'))).map(a => a.nickname)
  }
}
