import { Button, Group, PasswordInput, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import { Remove } from '../../parts/Remove'
import { moment } from '../../parts/said'
import classes from './Sources.module.css'

const places = {
  environment: 'from the environment',
  file: 'from a file',
  store: 'kept here, sealed',
}

type Props = { /** The name of a secret that the declaration in sight speaks of. */ spoken: string }

/** The passwords that sources are opened with, by their names; what they hold is never shown. */
export function Secrets({ spoken }: Props) {
  const client = useQueryClient()
  const [typed, setTyped] = useState<string>()
  const [text, setText] = useState('')
  const secrets = useQuery({ queryKey: ['secrets'], queryFn: () => answer(api.GET('/secrets')) })
  const name = typed ?? spoken
  const keep = useMutation({
    mutationFn: () =>
      answer(api.PUT('/secrets/{secret}', { params: { path: { secret: name } }, body: { text } })),
    onSuccess: () => (setText(''), client.invalidateQueries()),
  })
  return (
    <section aria-label="Passwords">
      <h2 className={classes.heading}>Passwords</h2>
      <ul className={classes.secrets}>
        {secrets.data?.map(s => (
          <li key={s.name}>
            <strong>{s.name}</strong> <span className="dim">{places[s.from]}</span>
            {s.changedAt && (
              <span className="dim">
                , {moment(s.changedAt)} by {s.changedBy}
              </span>
            )}{' '}
            {s.from === 'store' && (
              <Remove
                name={s.name}
                says="It is forgotten, and sources that use it can no longer be read."
                onRemove={async () => {
                  await answer(api.DELETE('/secrets/{secret}', { params: { path: { secret: s.name } } }))
                  await client.invalidateQueries()
                }}
              />
            )}
          </li>
        ))}
      </ul>
      <form onSubmit={e => (e.preventDefault(), name && text && keep.mutate())}>
        <Group align="end" gap="xs" wrap="nowrap">
          <TextInput
            size="xs"
            label="Name"
            name="secret-name"
            value={name}
            onChange={e => setTyped(e.currentTarget.value.trim())}
          />
          <PasswordInput
            size="xs"
            flex={1}
            label="What it holds"
            name="secret-text"
            autoComplete="new-password"
            value={text}
            onChange={e => setText(e.currentTarget.value)}
          />
          <Button size="xs" type="submit" variant="light" disabled={!name || !text} loading={keep.isPending}>
            Keep it
          </Button>
        </Group>
      </form>
      {keep.error && (
        <p className="told" role="alert">
          {keep.error.message}
        </p>
      )}
    </section>
  )
}
