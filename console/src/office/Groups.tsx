import { Button, Group as Row, Modal, MultiSelect, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Group } from '../api/client'
import classes from './Office.module.css'
import { RenameThing } from '../parts/RenameThing'
import { Remove } from '../parts/Remove'
import { fromTrash, tellChanged } from '../trash/undo'
import { Rows } from '../parts/Rows'

/** Groups of people, to open reports to and to share with. */
export function Groups() {
  const [edited, setEdited] = useState<Group | 'new'>()
  const client = useQueryClient()
  const remove = async (id: string) => {
    await answer(api.DELETE('/groups/{group}', { params: { path: { group: id } } }))
    await client.invalidateQueries()
  }
  const groups = useQuery({ queryKey: ['groups'], queryFn: () => answer(api.GET('/groups')) })
  return (
    <>
      <Rows heads={['Group', 'Title', 'Members', '']}>
        {groups.data?.map(g => (
          <tr key={g.id}>
            <td>{g.id}</td>
            <td>{g.title}</td>
            <td>{g.members.join(', ')}</td>
            <td className="acts">
              <button className="act" onClick={() => setEdited(g)}>
                Change
              </button>
              <RenameThing kind="group" name={g.id} />
              <Remove
                name={g.id}
                says="What was open to the group or shared with it no longer is, until it is taken out of the trash, where it stays for 30 days."
                onRemove={() => remove(g.id)}
                undo={fromTrash('group', g.id)}
              />
            </td>
          </tr>
        ))}
      </Rows>
      <Button size="xs" onClick={() => setEdited('new')}>
        New group
      </Button>
      {edited && (
        <GroupForm group={edited === 'new' ? undefined : edited} onDone={() => setEdited(undefined)} />
      )}
    </>
  )
}

type Props = { group: Group | undefined; onDone: () => void }

function GroupForm({ group, onDone }: Props) {
  const client = useQueryClient()
  const [id, setId] = useState(group?.id ?? '')
  const [title, setTitle] = useState(group?.title ?? '')
  const [members, setMembers] = useState(group?.members ?? [])
  const people = useQuery({ queryKey: ['people'], queryFn: () => answer(api.GET('/people')) })
  const put = (revision: number | undefined, body: { title: string; members: string[] }) =>
    answer(
      api.PUT('/groups/{group}', {
        params: { path: { group: id }, header: revision ? { 'If-Match': String(revision) } : {} },
        body,
      }),
    )
  const putBack = async (was: Group) => {
    const now = (await answer(api.GET('/groups'))).find(g => g.id === was.id)
    return put(now?.revision, { title: was.title, members: was.members })
  }
  const save = useMutation({
    mutationFn: () => put(group?.revision, { title, members }),
    onSuccess: () => {
      if (group) tellChanged(group.title, () => putBack(group))
      void client.invalidateQueries({ queryKey: ['groups'] })
      void client.invalidateQueries({ queryKey: ['people'] })
      onDone()
    },
  })
  return (
    <Modal opened onClose={onDone} title={group ? group.title : 'New group'}>
      <form onSubmit={e => (e.preventDefault(), save.mutate())}>
        {!group && (
          <TextInput label="Id" value={id} onChange={e => setId(e.currentTarget.value)} data-autofocus />
        )}
        <TextInput mt="sm" label="Title" value={title} onChange={e => setTitle(e.currentTarget.value)} />
        <MultiSelect
          mt="sm"
          label="Members"
          searchable
          data={people.data?.map(p => ({ value: p.name, label: p.title })) ?? []}
          value={members}
          onChange={setMembers}
        />
        {save.error && <p className={classes.wrong}>{save.error.message}</p>}
        <Row mt="md" justify="flex-end">
          <Button type="submit" loading={save.isPending}>
            Keep
          </Button>
        </Row>
      </form>
    </Modal>
  )
}
