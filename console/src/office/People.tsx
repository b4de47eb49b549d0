import { Button } from '@mantine/core'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Person } from '../api/client'
import { Failure } from '../parts/Failure'
import { HandOver } from './HandOver'
import classes from './Office.module.css'
import { PersonForm } from './PersonForm'
import { RenameThing } from '../parts/RenameThing'
import { Remove } from '../parts/Remove'
import { Sessions } from '../signin/Sessions'
import { at } from '../api/below'
import { fromTrash } from '../trash/undo'
import { Rows } from '../parts/Rows'

/** All accounts: who may do what, and who sees which units. */
export function People() {
  const [edited, setEdited] = useState<Person | 'new'>()
  const [signed, setSigned] = useState<string>()
  const client = useQueryClient()
  const remove = async (name: string) => {
    await answer(api.DELETE('/people/{person}', { params: { path: { person: name } } }))
    await client.invalidateQueries()
  }
  const erase = async (name: string) => {
    await answer(api.POST('/people/{person}/erasure', { params: { path: { person: name } } }))
    await client.invalidateQueries()
  }
  const people = useQuery({ queryKey: ['people'], queryFn: () => answer(api.GET('/people')) })
  if (people.error) return <Failure error={people.error} />
  return (
    <>
      <Rows heads={['Name', 'Person', 'Role', 'Groups', 'Sees', '']}>
        {people.data?.map(p => (
          <tr key={p.name} className={p.closed ? classes.closed : undefined}>
            <td>{p.name}</td>
            <td>{p.title}</td>
            <td>
              {p.role}
              {p.owner && <div className="dim">for scripts; {p.owner} answers for it</div>}
              {p.given?.map(r => (
                <div key={r} className="dim">
                  also {r}
                </div>
              ))}
              {p.withheld?.map(r => (
                <div key={r} className="dim">
                  not {r}
                </div>
              ))}
            </td>
            <td>{p.groups.join(', ')}</td>
            <td>{p.units.length ? `only ${p.units.join(', ')}` : 'everything'}</td>
            <td className="acts">
              <button className="act" onClick={() => setEdited(p)}>
                Change
              </button>
              <button className="act" onClick={() => setSigned(p.name)}>
                Signed in
              </button>
              <HandOver person={p} people={people.data} />
              <RenameThing kind="account" name={p.name} />
              <a
                className="act"
                href={at(`/api/people/${encodeURIComponent(p.name)}/data`)}
                download={`${p.name}.json`}
              >
                Data
              </a>
              {p.closed && (
                <Remove
                  word="Erase"
                  name={p.name}
                  says="The person is taken out of the service: what was theirs alone is deleted, what they did goes on under another name, in the audit too. Sealed results keep who asked for them until they are deleted."
                  onRemove={() => erase(p.name)}
                />
              )}
              <Remove
                name={p.name}
                says="The account is deleted with its desk, and stays in the trash for 30 days. An account that something is kept for, such as results, is closed instead."
                onRemove={() => remove(p.name)}
                undo={fromTrash('account', p.name)}
              />
            </td>
          </tr>
        ))}
      </Rows>
      <Button size="xs" onClick={() => setEdited('new')}>
        New account
      </Button>
      {signed && <Sessions person={signed} onClose={() => setSigned(undefined)} />}
      {edited && (
        <PersonForm
          key={edited === 'new' ? 'new' : edited.name}
          person={edited === 'new' ? undefined : edited}
          onDone={() => setEdited(undefined)}
        />
      )}
    </>
  )
}
