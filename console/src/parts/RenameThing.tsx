import { Button, Group, Modal, Text, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'

type Kind = 'source' | 'parameter' | 'group' | 'address' | 'account'

const follows: Record<Kind, string> = {
  source: 'Reports that read it get new versions, and drafts new texts.',
  parameter: 'Reports that use it go on knowing it as before; what is kept of them stays.',
  group: 'What is open to it or shared with it stays so.',
  address: 'Run controls that send to it go on sending.',
  account:
    'What is kept for the account goes on; the person signs in by the new name. Seals and records of who did what keep the old one.',
}

type Props = { kind: Kind; name: string }

/** Gives a source, a shared parameter, a group, an address or an account another name. */
export function RenameThing({ kind, name }: Props) {
  const client = useQueryClient()
  const [opened, { open, close }] = useDisclosure(false)
  const [to, setTo] = useState(name)
  const rename = useMutation({
    mutationFn: () =>
      answer(api.POST('/renamed/{kind}/{id}', { params: { path: { kind, id: name } }, body: { to } })),
    onSuccess: () => (close(), client.invalidateQueries()),
  })
  return (
    <>
      <button type="button" className="act" aria-label={`Rename ${name}`} onClick={open}>
        Rename
      </button>
      <Modal opened={opened} onClose={close} title={`Another name for ${name}`}>
        <form onSubmit={e => (e.preventDefault(), rename.mutate())}>
          <Text size="sm">{follows[kind]}</Text>
          <TextInput
            mt="sm"
            label="Name"
            value={to}
            onChange={e => setTo(e.currentTarget.value)}
            error={rename.error?.message}
            data-autofocus
          />
          <Group justify="flex-end" mt="md">
            <Button type="submit" disabled={to === name} loading={rename.isPending}>
              Rename it
            </Button>
          </Group>
        </form>
      </Modal>
    </>
  )
}
