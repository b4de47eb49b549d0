import { Button, Group, NumberInput, Select, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { moment } from '../parts/said'
import { useSession } from './session'

type Role = Schemas['Role']
const roles: Role[] = ['reader', 'runner', 'author', 'librarian', 'administrator']

type Props = {
  /** Whose; one's own when it is not given. */
  person?: string
  onMade: () => void
}

/** Makes a token for a script or a command line; what it is is told once. */
export function NewToken({ person, onMade }: Props) {
  const { who } = useSession()
  const [label, setLabel] = useState('')
  const [days, setDays] = useState<number | string>(90)
  const [as, setAs] = useState<Role | null>('reader')
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/session/tokens', { body: { label, days: Number(days), as: as ?? undefined, person } }),
      ),
    onSuccess: onMade,
  })
  return (
    <form onSubmit={e => (e.preventDefault(), make.mutate())} aria-label="New token">
      <Group gap="sm" align="end">
        <TextInput
          size="xs"
          label="A token for"
          placeholder="nightly export"
          required
          value={label}
          onChange={e => setLabel(e.currentTarget.value)}
        />
        <Select
          size="xs"
          w={150}
          label="that acts at most as"
          data={person ? roles : roles.slice(0, roles.indexOf(who?.role ?? 'reader') + 1)}
          value={as}
          placeholder="its owner"
          onChange={r => setAs(r as Role | null)}
          clearable
        />
        <NumberInput size="xs" w={90} label="for days" min={1} max={366} value={days} onChange={setDays} />
        <Button size="xs" type="submit" loading={make.isPending}>
          Make it
        </Button>
      </Group>
      {make.error && (
        <p className="told" role="alert">
          {make.error.message}
        </p>
      )}
      <div role="status">
        {make.data && (
          <p data-token>
            It is <code>{make.data.token}</code>, until {moment(make.data.ends)}. Keep it now: nothing tells
            it again.
          </p>
        )}
      </div>
    </form>
  )
}
