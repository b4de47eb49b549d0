import { Button } from '@mantine/core'
import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Address } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { useMayChange } from '../signin/session'
import { AddressForm } from './AddressForm'
import { RenameThing } from '../parts/RenameThing'
import { Remove } from '../parts/Remove'
import { putBack } from './putBack'

/** Who results are sent to, with nicknames and groups. */
export function AddressBook() {
  const client = useQueryClient()
  const mayChange = useMayChange()
  const [edited, setEdited] = useState<Address | 'new'>()
  const book = useQuery({ queryKey: ['addresses'], queryFn: () => answer(api.GET('/addresses')) })
  const remove = async (nickname: string) => {
    await answer(api.DELETE('/addresses/{nickname}', { params: { path: { nickname } } }))
    await client.invalidateQueries({ queryKey: ['addresses'] })
  }
  if (book.error) return <Failure error={book.error} again={() => book.refetch()} />
  return (
    <>
      <List
        title="Address book"
        heads={['Nickname', 'Name', 'Mail', 'Account', 'Stands for', 'Groups', '']}
        tools={
          <Button size="xs" variant="light" onClick={() => setEdited('new')}>
            New entry
          </Button>
        }
      >
        {book.data?.map(e => (
          <tr key={e.nickname}>
            <td>
              {mayChange(e.owner) ? (
                <button className="act" onClick={() => setEdited(e)}>
                  {e.nickname}
                </button>
              ) : (
                e.nickname
              )}
            </td>
            <td>{e.name}</td>
            <td>{e.mail}</td>
            <td>{e.person}</td>
            <td>{e.units.join(', ')}</td>
            <td>{e.groups.join(', ')}</td>
            <td className="acts">
              {mayChange(e.owner) && (
                <>
                  <RenameThing kind="address" name={e.nickname} />
                  <Remove
                    name={e.nickname}
                    says="Nothing is sent to it any more; its history stays."
                    onRemove={() => remove(e.nickname)}
                    undo={() => putBack(e)}
                  />
                </>
              )}
            </td>
          </tr>
        ))}
      </List>
      {edited && (
        <AddressForm entry={edited === 'new' ? undefined : edited} onDone={() => setEdited(undefined)} />
      )}
    </>
  )
}
