import { Button, Group, Modal, Text, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'

type Kind = 'report' | 'source' | 'parameter' | 'group' | 'address' | 'account'

const follows: Record<Kind, string> = {
  report:
    'Criteria, views, run controls, results and documents go on under the new id, and reports that link to it get new versions. Whoever asks for the old id is told the new one.',
  source: 'Reports that read it get new versions, and drafts new texts.',
  parameter: 'Reports that use it go on knowing it as before; what is kept of them stays.',
  group: 'What is open to it or shared with it stays so.',
  address: 'Run controls that send to it go on sending.',
  account:
    'What is kept for the account goes on; the person signs in by the new name. Seals and records of who did what keep the old one.',
}

type Props = {
  kind: Kind
  name: string
  /** How people call it, where that is not its name. */
  title?: string
}

function rename(kind: Kind, id: string, to: string): Promise<unknown> {
  if (kind === 'report')
    return answer(api.POST('/reports/{report}/rename', { params: { path: { report: id } }, body: { to } }))
  return answer(api.POST('/renamed/{kind}/{id}', { params: { path: { kind, id } }, body: { to } }))
}

/** Gives a report, a source, a shared parameter, a group, an address or an account another name. */
export function RenameThing({ kind, name, title = name }: Props) {
  const client = useQueryClient()
  const [opened, { open, close }] = useDisclosure(false)
  const [to, setTo] = useState(name)
  const change = useMutation({
    mutationFn: () => rename(kind, name, to),
    onSuccess: () => (close(), client.invalidateQueries()),
  })
  return (
    <>
      <button type="button" className="act rare" aria-label={`Rename ${name}`} onClick={open}>
        Rename
      </button>
      <Modal opened={opened} onClose={close} title={`Another name for ${title}`}>
        <form onSubmit={e => (e.preventDefault(), change.mutate())}>
          <Text size="sm">{follows[kind]}</Text>
          <TextInput
            mt="sm"
            label={kind === 'account' || kind === 'address' ? 'Name' : 'Id'}
            value={to}
            onChange={e => setTo(e.currentTarget.value)}
            error={change.error?.message}
            data-autofocus
          />
          <Group justify="flex-end" mt="md">
            <Button type="submit" disabled={to === name} loading={change.isPending}>
              Rename it
            </Button>
          </Group>
        </form>
      </Modal>
    </>
  )
}
