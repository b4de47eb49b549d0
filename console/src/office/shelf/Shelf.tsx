import { Button, Group, TextInput } from '@mantine/core'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'
import { Document } from '../../parts/Document'
import { Remove } from '../../parts/Remove'
import classes from '../Office.module.css'
import { ResourceForm } from './ResourceForm'

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
      <table className={classes.table}>
        <thead>
          <tr>
            <th scope="col">What</th>
            <th scope="col">Shelf</th>
            <th scope="col">Beside</th>
            <th scope="col">Version</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {kept.data?.map(r => (
            <tr key={r.id}>
              <td>
                <Document resource={r} />
              </td>
              <td>{r.category}</td>
              <td>{r.report}</td>
              <td>{r.latest?.number}</td>
              <td className={classes.acts}>
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
                  says="It is deleted with all its versions."
                  onRemove={() => remove(r.id)}
                />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {kept.data?.length === 0 && <p className="dim">Nothing is kept that has that in it.</p>}
      {edited && (
        <ResourceForm resource={edited === 'new' ? undefined : edited} onDone={() => setEdited(undefined)} />
      )}
    </>
  )
}
