import { Button, PasswordInput, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Mark } from '../app/Mark'
import classes from './SignInPage.module.css'
import { Heading } from '../parts/Heading'

type Props = {
  /** Whose session ended while they were at work; their place waits below. */
  again?: string
}

/** Stands in every place until somebody is signed in; then the place itself follows. */
export function SignInPage({ again }: Props) {
  const client = useQueryClient()
  const [name, setName] = useState(again ?? '')
  const [password, setPassword] = useState('')
  const service = useQuery({ queryKey: ['service'], queryFn: () => answer(api.GET('/service')) })
  const signIn = useMutation({
    mutationFn: () => answer(api.POST('/session', { body: { name: name.trim(), password } })),
    onSuccess: who => {
      if (again === who.name) {
        client.setQueryData(['session'], who)
        return client.invalidateQueries({ predicate: q => q.queryKey[0] !== 'session' })
      }
      if (again) return window.location.assign('/') // somebody else: nothing of the former one's stays
      client.removeQueries({ predicate: q => !['service', 'session'].includes(String(q.queryKey[0])) })
      client.setQueryData(['session'], who)
    },
  })
  return (
    <main className={classes.page}>
      <form className={classes.card} onSubmit={e => (e.preventDefault(), signIn.mutate())}>
        <p className={classes.mark}>
          <Mark /> Mantilla
        </p>
        <Heading className={classes.title} title={`Sign in to ${service.data?.name ?? 'the reports'}`}>
          {service.data?.name ?? 'Reports'}
        </Heading>
        {again && (
          <p className={classes.ended} role="status">
            Your session has ended. Sign in again and go on where you were.
          </p>
        )}
        <TextInput
          name="name"
          label="Name"
          autoComplete="username"
          autoFocus={!again}
          required
          value={name}
          onChange={e => setName(e.currentTarget.value)}
        />
        <PasswordInput
          name="password"
          label="Password"
          autoComplete="current-password"
          required
          mt="sm"
          autoFocus={Boolean(again)}
          value={password}
          onChange={e => setPassword(e.currentTarget.value)}
        />
        <p className={classes.wrong} role="alert">
          {signIn.error?.message}
        </p>
        <Button type="submit" fullWidth loading={signIn.isPending}>
          Sign in
        </Button>
      </form>
    </main>
  )
}
