import { Button, Group, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { moment } from '../parts/said'
import classes from './Office.module.css'

/** Who asks for reports that are not open to them; nothing where nobody does. */
export function Requests() {
  const requests = useQuery({ queryKey: ['requests'], queryFn: () => answer(api.GET('/requests')) })
  const open = requests.data?.filter(r => r.state === 'open') ?? []
  if (open.length === 0) return null
  return (
    <section className={classes.requests} aria-label="Requests">
      <h2>Asked for</h2>
      <ul>
        {open.map(r => (
          <Request key={r.number} request={r} />
        ))}
      </ul>
    </section>
  )
}

function Request({ request: r }: { request: Schemas['Request'] }) {
  const client = useQueryClient()
  const [answered, setAnswered] = useState('')
  const act = useMutation({
    mutationFn: (grant: boolean) =>
      answer(
        api.PUT('/requests/{number}', {
          params: { path: { number: r.number } },
          body: { grant, answer: answered },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  })
  return (
    <li>
      <p>
        <b>{r.person}</b> asks for <b>{r.report}</b>, {moment(r.at)}
        {r.says && `: ${r.says}`}
      </p>
      <Group gap="xs">
        <TextInput
          size="xs"
          aria-label={`Answer to ${r.person}`}
          placeholder="a word to them, if you like"
          value={answered}
          onChange={e => setAnswered(e.currentTarget.value)}
        />
        <Button size="xs" loading={act.isPending} onClick={() => act.mutate(true)}>
          Open it to them
        </Button>
        <Button size="xs" variant="default" onClick={() => act.mutate(false)}>
          Refuse
        </Button>
      </Group>
      {act.error && <p className={classes.wrong}>{act.error.message}</p>}
    </li>
  )
}
