import { Button, PasswordInput, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Mark } from '../app/Mark'
import classes from './SignInPage.module.css'

/** Stands in every place until somebody is signed in; then the place itself follows. */
export function SignInPage() {
  const client = useQueryClient()
  const [name, setName] = useState('')
  const [password, setPassword] = useState('')
  const service = useQuery({ queryKey: ['service'], queryFn: () => answer(api.GET('/service')) })
  const signIn = useMutation({
    mutationFn: () => answer(api.POST('/session', { body: { name: name.trim(), password } })),
    onSuccess: (who) => {
      client.clear()
      client.setQueryData(['session'], who)
    },
  })
  return (
    <main className={classes.page}>
      <form className={classes.card} onSubmit={(e) => (e.preventDefault(), signIn.mutate())}>
        <p className={classes.mark}><Mark /> Mantilla</p>
        <h1 className={classes.title}>{service.data?.name ?? 'Reports'}</h1>
        <TextInput name="name" label="Name" autoComplete="username" autoFocus required value={name} onChange={(e) => setName(e.currentTarget.value)} />
        <PasswordInput name="password" label="Password" autoComplete="current-password" required mt="sm" value={password} onChange={(e) => setPassword(e.currentTarget.value)} />
        <p className={classes.wrong} role="alert">{signIn.error?.message}</p>
        <Button type="submit" fullWidth loading={signIn.isPending}>Sign in</Button>
      </form>
    </main>
  )
}
