import { Button, Group, NumberInput, Select, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'
import { Remove } from '../../parts/Remove'
import { size } from '../../parts/said'
import { tellChanged } from '../../trash/undo'
import classes from '../Office.module.css'
import { Rows } from '../../parts/Rows'

type Quota = Schemas['Quota']
type Kind = Quota['kind']

const kinds: { value: Kind; label: string }[] = [
  { value: 'person', label: 'one person' },
  { value: 'group', label: 'each of a group' },
  { value: 'everyone', label: 'everyone' },
]

/** How much the results of people may take; beyond it no run of theirs is started. */
export function Quotas({ quotas }: { quotas: Quota[] }) {
  const client = useQueryClient()
  const [kind, setKind] = useState<Kind>('everyone')
  const [id, setId] = useState('')
  const [megabytes, setMegabytes] = useState(2000)
  const put = async (kind: Kind, id: string, megabytes: number) => {
    await answer(api.PUT('/rules/quota/{kind}/{id}', { params: { path: { kind, id } }, body: { megabytes } }))
    await client.invalidateQueries({ queryKey: ['rules'] })
  }
  const of = kind === 'everyone' ? kind : id
  const keep = useMutation({
    mutationFn: () => put(kind, of, megabytes),
    onMutate: () => quotas.find(q => q.kind === kind && q.id === of),
    onSuccess: (_, __, was) => was && tellChanged(`The quota of ${of}`, () => put(kind, of, was.megabytes)),
  })
  return (
    <section aria-label="How much people may keep">
      <h2>How much people may keep</h2>
      {quotas.length === 0 && <p>As much as the disk holds.</p>}
      {quotas.length > 0 && (
        <Rows>
          {quotas.map(q => (
            <tr key={q.kind + q.id}>
              <td>{q.kind === 'everyone' ? 'Everyone' : `${q.kind} ${q.id}`}</td>
              <td>{size(q.megabytes * 1e6)}</td>
              <td>
                <Remove
                  name={`the quota of ${q.id}`}
                  says="Their results may take as much as other quotas let them."
                  onRemove={() => put(q.kind, q.id, 0)}
                  undo={() => put(q.kind, q.id, q.megabytes)}
                />
              </td>
            </tr>
          ))}
        </Rows>
      )}
      <form onSubmit={e => (e.preventDefault(), keep.mutate())}>
        <Group align="flex-end">
          <Select
            label="Results of"
            data={kinds}
            value={kind}
            onChange={v => setKind(v as Kind)}
            allowDeselect={false}
          />
          {kind !== 'everyone' && (
            <TextInput
              label={kind === 'person' ? 'Name to sign in with' : 'Group'}
              value={id}
              onChange={e => setId(e.currentTarget.value)}
            />
          )}
          <NumberInput
            label="Megabytes"
            value={megabytes}
            min={1}
            w="9rem"
            onChange={v => setMegabytes(Number(v))}
          />
          <Button type="submit" variant="default" loading={keep.isPending}>
            Keep the quota
          </Button>
        </Group>
      </form>
      {keep.error && (
        <p className={classes.wrong} role="alert">
          {keep.error.message}
        </p>
      )}
    </section>
  )
}
