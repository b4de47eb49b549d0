import { Button, Group, TextInput } from '@mantine/core'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'
import { Document } from '../../parts/Document'
import { Remove } from '../../parts/Remove'
import { fromTrash } from '../../trash/undo'
import { ResourceForm } from './ResourceForm'
import { Rows } from '../../parts/Rows'

/** Documents and links beside reports and by category. */
export function Shelf() {
  const client = useQueryClient()
  const [search, setSearch] = useState('')
  const [edited, setEdited] = useState<Schemas['Resource'] | 'new'>()
  const kept = useQuery({
    queryKey: ['resources', '', search],
    queryFn: () => answer(api.GET('/resources', { params: { query: { search } } })),
    placeholderData: keepPreviousData,
  })
  const remove = async (resource: string) => {
    await answer(api.DELETE('/resources/{resource}', { params: { path: { resource } } }))
    await client.invalidateQueries()
  }
  return (
    <>
      <Group mb="sm" align="end">
        <TextInput
          size="xs"
          label="Find a document"
          value={search}
          onChange={e => setSearch(e.currentTarget.value)}
        />
        <Button size="xs" onClick={() => setEdited('new')}>
          New document or link
        </Button>
      </Group>
      <Rows heads={['What', 'Shelf', 'Beside', 'Version', '']}>
        {kept.data?.map(r => (
          <tr key={r.id}>
            <td>
              <Document resource={r} />
            </td>
            <td>{r.category}</td>
            <td>{r.report}</td>
            <td>{r.latest?.number}</td>
            <td className="acts">
              <button
                type="button"
                className="act"
                aria-label={`Change ${r.id}`}
                onClick={() => setEdited(r)}
              >
                Change
              </button>
              <Remove
                name={r.title}
                says="It is deleted with all its versions, and stays in the trash for 30 days."
                onRemove={() => remove(r.id)}
                undo={fromTrash('document', r.id)}
              />
            </td>
          </tr>
        ))}
      </Rows>
      {kept.data?.length === 0 && <p className="dim">Nothing is kept that has that in it.</p>}
      {edited && (
        <ResourceForm resource={edited === 'new' ? undefined : edited} onDone={() => setEdited(undefined)} />
      )}
    </>
  )
}
