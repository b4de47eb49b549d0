import { Button, Modal, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Who } from '../api/client'

type Props = { who: Who; onClose: () => void }

/** Sets up a second factor, or takes it away by a code of it. */
export function SecondFactor({ who, onClose }: Props) {
  const client = useQueryClient()
  const [code, setCode] = useState('')
  const known = () => client.invalidateQueries({ queryKey: ['session'] })
  const begin = useMutation({ mutationFn: () => answer(api.POST('/session/second')) })
  const confirm = useMutation({
    mutationFn: () => answer(api.PUT('/session/second', { body: { code } })),
    onSuccess: known,
  })
  const end = useMutation({
    mutationFn: () => answer(api.POST('/session/second/end', { body: { code } })),
    onSuccess: () => (void known(), onClose()),
  })
  const typed = (
    <TextInput
      label="Code that the authenticator shows"
      autoComplete="one-time-code"
      inputMode="numeric"
      required
      value={code}
      onChange={e => setCode(e.currentTarget.value)}
      error={(confirm.error ?? end.error)?.message}
      data-autofocus
    />
  )
  return (
    <Modal opened onClose={onClose} title="Second factor">
      {confirm.data ? (
        <div role="status">
          <p>It counts from now on. Keep these codes for the day that it is lost; each signs you in once:</p>
          <ul data-codes>
            {confirm.data.map(c => (
              <li key={c}>
                <code>{c}</code>
              </li>
            ))}
          </ul>
          <Button onClick={onClose}>I have kept them</Button>
        </div>
      ) : who.second ? (
        <form onSubmit={e => (e.preventDefault(), end.mutate())}>
          <p>A code of your authenticator is asked for when you sign in.</p>
          {typed}
          <Button type="submit" mt="md" variant="default" loading={end.isPending}>
            Take it away
          </Button>
        </form>
      ) : begin.data ? (
        <form onSubmit={e => (e.preventDefault(), confirm.mutate())}>
          <p>Scan this with an authenticator, or type the secret there.</p>
          <img src={begin.data.picture} alt="The second factor as a QR code" width={200} height={200} />
          <p>
            <code data-secret>{begin.data.secret}</code>
          </p>
          {typed}
          <Button type="submit" mt="md" loading={confirm.isPending}>
            Let it count
          </Button>
        </form>
      ) : (
        <>
          <p>
            {who.secondWanted
              ? 'Your role wants a second factor; until you have one, you read and do no more.'
              : 'Beside the password a code is asked for then, which an authenticator on your telephone shows.'}
          </p>
          {begin.error && (
            <p className="told" role="alert">
              {begin.error.message}
            </p>
          )}
          <Button loading={begin.isPending} onClick={() => begin.mutate()}>
            Set one up
          </Button>
        </>
      )}
    </Modal>
  )
}
