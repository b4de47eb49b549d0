import { Button, Modal, PasswordInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'

type Props = { onClose: () => void; onChanged: () => void }

/** Changes one's own password; everything that was signed in by the old one is signed out. */
export function ChangePassword({ onClose, onChanged }: Props) {
  const [old, setOld] = useState('')
  const [fresh, setFresh] = useState('')
  const change = useMutation({
    mutationFn: () => answer(api.PUT('/session/password', { body: { old, password: fresh } })),
    onSuccess: onChanged,
  })
  return (
    <Modal opened onClose={onClose} title="Change password">
      <form onSubmit={e => (e.preventDefault(), change.mutate())}>
        <PasswordInput
          label="Present password"
          autoComplete="current-password"
          required
          value={old}
          onChange={e => setOld(e.currentTarget.value)}
          data-autofocus
        />
        <PasswordInput
          label="New password"
          description="At least 12 characters, and not one of those that are tried first; you sign in again with it."
          autoComplete="new-password"
          required
          mt="sm"
          value={fresh}
          onChange={e => setFresh(e.currentTarget.value)}
          error={change.error?.message}
        />
        <Button type="submit" mt="md" loading={change.isPending}>
          Change it
        </Button>
      </form>
    </Modal>
  )
}
