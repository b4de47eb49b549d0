import { Button, PasswordInput, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Who } from '../api/client'
import { Mark } from '../app/Mark'
import classes from './SignInPage.module.css'
import { Heading } from '../parts/Heading'
import { passkeysHere, unlocked } from './passkey'
import { at, below } from '../api/below'
import { useService } from '../api/useService'

/** Why the provider's people are not let in, by what the service calls it. */
const refusals: Record<string, string> = {
  unknown: 'There is no account for you here yet; ask an administrator for one.',
  closed: 'Your account is closed; ask an administrator.',
  taken: 'The account of your name is somebody else’s; ask an administrator.',
  name: 'What the provider calls you cannot be the name of an account; ask an administrator.',
  units: 'The provider names no unit for you that is known here; ask an administrator.',
  silent: 'The provider does not answer; try again in a while.',
  away: 'That sign-in was begun elsewhere, or too long ago; begin again.',
  denied: 'The provider did not sign you in; try again.',
}

/** The place that waits, without what was said of an earlier try. */
function placeNow(): string {
  const params = new URLSearchParams(location.search)
  params.delete('refused')
  const text = params.toString()
  return location.pathname.slice(below.length) + (text ? `?${text}` : '')
}

type Props = {
  /** Whose session ended while they were at work; their place waits below. */
  again?: string
}

/** Stands in every place until somebody is signed in; then the place itself follows. */
export function SignInPage({ again }: Props) {
  const client = useQueryClient()
  const [name, setName] = useState(again ?? '')
  const [password, setPassword] = useState('')
  const [code, setCode] = useState('')
  const [wanted, setWanted] = useState(false)
  const service = useService()
  const signIn = useMutation({
    mutationFn: () =>
      answer(api.POST('/session', { body: { name: name.trim(), password, code: code || undefined } })),
    onError: e => setWanted(wanted || (e instanceof Refusal && e.problem.type === 'second')),
    onSuccess: who => known(who),
  })
  const unlock = useMutation({
    mutationFn: async () => {
      const question = await answer(api.POST('/session/passkey'))
      return answer(api.PUT('/session/passkey', { body: await unlocked(question) }))
    },
    onSuccess: who => known(who),
  })
  const known = (who: Who) => {
    if (again === who.name) {
      client.setQueryData(['session'], who)
      return client.invalidateQueries({ predicate: q => q.queryKey[0] !== 'session' })
    }
    if (again) return window.location.assign(at('/')) // somebody else: nothing of the former one's stays
    client.removeQueries({ predicate: q => !['service', 'session'].includes(String(q.queryKey[0])) })
    client.setQueryData(['session'], who)
  }
  const refused = new URLSearchParams(location.search).get('refused')
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
        {refused && (
          <p className={classes.wrong} role="alert" data-refused={refused}>
            {refusals[refused] ?? refusals.denied}
          </p>
        )}
        {service.data?.provider && (
          <Button
            component="a"
            href={at(`/api/session/provider?to=${encodeURIComponent(placeNow())}`)}
            fullWidth
            mb="sm"
            data-provider
          >
            Sign in by {service.data.provider}
          </Button>
        )}
        {service.data?.provider && (
          <p className="dim">
            {service.data.passwords
              ? 'or with a password of this service:'
              : 'For the account that is kept for emergencies:'}
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
        {wanted && (
          <TextInput
            name="code"
            label="Code of your authenticator"
            description="or one of those that you kept for the day it is lost"
            autoComplete="one-time-code"
            required
            mt="sm"
            autoFocus
            value={code}
            onChange={e => setCode(e.currentTarget.value)}
          />
        )}
        <p className={classes.wrong} role="alert">
          {(signIn.error ?? unlock.error)?.message}
        </p>
        <Button type="submit" fullWidth loading={signIn.isPending}>
          Sign in
        </Button>
        {passkeysHere(service.data?.passkeys) && (
          <Button
            fullWidth
            mt="sm"
            variant="default"
            loading={unlock.isPending}
            onClick={() => (signIn.reset(), unlock.mutate())}
            data-passkey
          >
            By a passkey
          </Button>
        )}
      </form>
    </main>
  )
}
