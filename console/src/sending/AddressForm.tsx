import { Button, Modal, TagsInput, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Address, type AddressChange } from '../api/client'
import { AddressHistory } from './AddressHistory'
import { tellChanged } from '../trash/undo'
import { putBack } from './putBack'

type Props = { entry: Address | undefined; onDone: () => void }

/** One entry of the address book. */
export function AddressForm({ entry, onDone }: Props) {
  const client = useQueryClient()
  const [nickname, setNickname] = useState(entry?.nickname ?? '')
  const [change, setChange] = useState<AddressChange>({
    name: entry?.name ?? '',
    mail: entry?.mail ?? '',
    person: entry?.person,
    units: entry?.units ?? [],
    groups: entry?.groups ?? [],
  })
  const set = (part: Partial<AddressChange>) => setChange({ ...change, ...part })
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/addresses/{nickname}', {
          params: { path: { nickname }, header: entry ? { 'If-Match': String(entry.revision) } : {} },
          body: change,
        }),
      ),
    onSuccess: () => {
      if (entry) tellChanged(entry.nickname, () => putBack(entry))
      void client.invalidateQueries({ queryKey: ['addresses'] })
      onDone()
    },
  })
  const fault = (field: string) =>
    save.error instanceof Refusal
      ? save.error.problem.fields.find(f => f.field === field)?.message
      : undefined
  const general =
    save.error && !(save.error instanceof Refusal && save.error.problem.fields.length)
      ? save.error.message
      : undefined
  return (
    <Modal opened onClose={onDone} title={entry ? entry.name : 'New entry'}>
      <form onSubmit={e => (e.preventDefault(), save.mutate())}>
        {!entry && (
          <TextInput
            name="nickname"
            label="Nickname"
            value={nickname}
            onChange={e => setNickname(e.currentTarget.value)}
            error={fault('nickname')}
            data-autofocus
          />
        )}
        <TextInput
          mt="sm"
          name="address-name"
          label="Name"
          value={change.name}
          onChange={e => set({ name: e.currentTarget.value })}
          error={fault('name')}
        />
        <TextInput
          mt="sm"
          name="mail"
          label="Mail address"
          value={change.mail}
          onChange={e => set({ mail: e.currentTarget.value.trim() })}
          error={fault('mail')}
        />
        <TextInput
          mt="sm"
          name="account"
          label="Account"
          description="what it gets is cut to what the account may see"
          value={change.person ?? ''}
          onChange={e => set({ person: e.currentTarget.value.trim() || undefined })}
          error={fault('person')}
        />
        <TagsInput
          mt="sm"
          label="Stands for these units"
          description="codes of units; gets their parts of what is split"
          value={change.units}
          onChange={units => set({ units })}
          error={fault('units')}
        />
        <TagsInput
          mt="sm"
          label="Groups"
          description="names under which several are written to"
          value={change.groups}
          onChange={groups => set({ groups })}
          error={fault('groups')}
        />
        {general && <p className="told">{general}</p>}
        <Button mt="md" type="submit" loading={save.isPending}>
          Keep
        </Button>
      </form>
      {entry && <AddressHistory nickname={entry.nickname} />}
    </Modal>
  )
}
