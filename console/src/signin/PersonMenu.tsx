import { Button, Menu, Modal, PasswordInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Who } from '../api/client'

type Props = { who: Who }

/** Who is signed in, with what belongs to the account. */
export function PersonMenu({ who }: Props) {
  const client = useQueryClient()
  const [open, { open: change, close }] = useDisclosure(false)
  const [old, setOld] = useState('')
  const [fresh, setFresh] = useState('')
  const gone = () => {
    client.clear()
    client.setQueryData(['session'], null)
  }
  const signOut = useMutation({ mutationFn: () => answer(api.DELETE('/session')), onSettled: gone })
  const password = useMutation({ mutationFn: () => answer(api.PUT('/session/password', { body: { old, password: fresh } })), onSuccess: gone })
  return (
    <>
      <Menu position="bottom-end" shadow="md">
        <Menu.Target>
          <Button size="compact-sm" variant="subtle" color="gray" data-person={who.name}>{who.title} ▾</Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>{who.name}, {who.role}</Menu.Label>
          {who.units.length > 0 && <Menu.Label>sees only {who.units.join(', ')}</Menu.Label>}
          <Menu.Item onClick={change}>Change password</Menu.Item>
          <Menu.Item onClick={() => signOut.mutate()}>Sign out</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <Modal opened={open} onClose={close} title="Change password">
        <form onSubmit={(e) => (e.preventDefault(), password.mutate())}>
          <PasswordInput label="Present password" autoComplete="current-password" required value={old} onChange={(e) => setOld(e.currentTarget.value)} data-autofocus />
          <PasswordInput label="New password" description="At least 10 characters; you sign in again with it." autoComplete="new-password" required mt="sm" value={fresh} onChange={(e) => setFresh(e.currentTarget.value)} error={password.error?.message} />
          <Button type="submit" mt="md" loading={password.isPending}>Change it</Button>
        </form>
      </Modal>
    </>
  )
}
