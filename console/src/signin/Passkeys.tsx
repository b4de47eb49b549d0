import { Button, Group, Modal, TextInput } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Remove } from '../parts/Remove'
import { moment } from '../parts/said'
import { made, passkeysHere } from './passkey'
import { useService } from '../api/useService'

type Props = { onClose: () => void }

/** One's passkeys: made on this device, listed, deleted. */
export function Passkeys({ onClose }: Props) {
  const [label, setLabel] = useState('')
  const service = useService()
  const keys = useQuery({ queryKey: ['passkeys'], queryFn: () => answer(api.GET('/session/passkeys')) })
  const make = useMutation({
    mutationFn: async () => {
      const question = await answer(api.POST('/session/passkeys'))
      await answer(api.PUT('/session/passkeys', { body: { label, answer: await made(question) } }))
    },
    onSuccess: () => (setLabel(''), keys.refetch()),
  })
  const remove = async (passkey: string) => {
    await answer(api.DELETE('/session/passkeys/{passkey}', { params: { path: { passkey } } }))
    await keys.refetch()
  }
  const here = passkeysHere(service.data?.passkeys)
  return (
    <Modal opened onClose={onClose} title="Passkeys" size="lg">
      <p>
        A passkey stays with your device and signs you in without a password: you unlock it as you unlock the
        device, and no code is asked for.
      </p>
      {keys.error && (
        <p className="told" role="alert">
          {keys.error.message}
        </p>
      )}
      {keys.data?.length === 0 && <p className="dim">You have none yet.</p>}
      <ul style={{ paddingLeft: '1.1rem' }}>
        {keys.data?.map(k => (
          <li key={k.id} data-passkey={k.label}>
            {k.label}, since {moment(k.madeAt)}
            {k.lastAt ? `, used last ${moment(k.lastAt)}` : ', not used yet'}{' '}
            <Remove
              name={k.label}
              says="It no longer signs you in. Take it away on the device too."
              onRemove={() => remove(k.id)}
            />
          </li>
        ))}
      </ul>
      {here ? (
        <form onSubmit={e => (e.preventDefault(), make.mutate())} aria-label="New passkey">
          <Group align="end">
            <TextInput
              name="passkey-label"
              label="What it is on"
              placeholder="my laptop"
              required
              value={label}
              onChange={e => setLabel(e.currentTarget.value)}
              data-autofocus
            />
            <Button type="submit" loading={make.isPending}>
              Make a passkey
            </Button>
          </Group>
          {make.error && (
            <p className="told" role="alert">
              {make.error.message}
            </p>
          )}
        </form>
      ) : (
        <p className="dim">
          {service.data?.passkeys
            ? `To make one, open the console at ${service.data.passkeys} in a browser that has passkeys.`
            : 'This service has an address without a name, to which no passkey can be bound.'}
        </p>
      )}
    </Modal>
  )
}
