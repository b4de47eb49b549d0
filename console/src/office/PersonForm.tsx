import {
  Button,
  Group,
  Modal,
  MultiSelect,
  PasswordInput,
  Select,
  Switch,
  TagsInput,
  TextInput,
} from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Person, type Role, type Schemas } from '../api/client'
import { tellChanged } from '../trash/undo'

type Props = { person: Person | undefined; onDone: () => void }

const roles: { value: Role; label: string }[] = [
  { value: 'reader', label: 'reader: opens results' },
  { value: 'runner', label: 'runner: also runs reports' },
  { value: 'author', label: 'author: also writes definitions' },
  { value: 'librarian', label: 'librarian: also keeps the catalog' },
  { value: 'administrator', label: 'administrator: also keeps people' },
]

type Single = NonNullable<Person['given']>[number]

const single: { value: Single; label: string }[] = [
  { value: 'take-away', label: 'take rows away as a file' },
  { value: 'send-outside', label: 'send beyond the house' },
  { value: 'sources', label: 'look at sources' },
  { value: 'open', label: 'open reports to people' },
  { value: 'personal', label: 'see what is personal' },
]

/** One account: made, or changed. */
export function PersonForm({ person, onDone }: Props) {
  const client = useQueryClient()
  const [name, setName] = useState(person?.name ?? '')
  const [change, setChange] = useState({
    title: person?.title ?? '',
    role: person?.role ?? ('runner' as Role),
    units: person?.units ?? [],
    closed: person?.closed ?? false,
    given: person?.given ?? [],
    withheld: person?.withheld ?? [],
  })
  const [password, setPassword] = useState('')
  const [owner, setOwner] = useState(person?.owner ?? null)
  const [machine, setMachine] = useState(Boolean(person?.owner))
  const people = useQuery({ queryKey: ['people'], queryFn: () => answer(api.GET('/people')) })
  const set = (part: Partial<typeof change>) => setChange({ ...change, ...part })
  const put = (revision: number | undefined, body: Schemas['PersonChange']) =>
    answer(
      api.PUT('/people/{person}', {
        params: { path: { person: name }, header: revision ? { 'If-Match': String(revision) } : {} },
        body,
      }),
    )
  const putBack = async ({ title, role, units, closed, given, withheld, owner }: Person) => {
    const now = (await answer(api.GET('/people'))).find(p => p.name === name)
    return put(now?.revision, { title, role, units, closed, given, withheld, owner })
  }
  const save = useMutation({
    mutationFn: () =>
      put(person?.revision, {
        ...change,
        ...(password && !machine ? { password } : {}),
        ...(machine && owner ? { owner } : {}),
      }),
    onSuccess: () => {
      // A password that was given is not known any more.
      if (person && !password) tellChanged(person.title, () => putBack(person))
      void client.invalidateQueries({ queryKey: ['people'] })
      onDone()
    },
  })
  const fault = (field: string) =>
    save.error instanceof Refusal
      ? save.error.problem.fields.find(f => f.field === field)?.message
      : undefined
  const general =
    save.error && !(save.error instanceof Refusal && save.error.problem.fields.length)
      ? save.error.message
      : undefined
  return (
    <Modal opened onClose={onDone} title={person ? `The account ${person.name}` : 'New account'}>
      <form onSubmit={e => (e.preventDefault(), save.mutate())}>
        {!person && (
          <TextInput
            name="person-name"
            label="Name to sign in with"
            value={name}
            onChange={e => setName(e.currentTarget.value)}
            error={fault('name')}
            data-autofocus
          />
        )}
        {!person && (
          <Switch
            mt="sm"
            label="A service account, for scripts: it signs in by tokens alone"
            checked={machine}
            onChange={e => setMachine(e.currentTarget.checked)}
          />
        )}
        {machine && (
          <Select
            mt="sm"
            label="Who answers for it"
            description="and makes its tokens; it does at most what their role may"
            data={people.data
              ?.filter(p => !p.owner && !p.closed)
              .map(p => ({ value: p.name, label: p.title }))}
            searchable
            required
            value={owner}
            onChange={setOwner}
            error={fault('owner')}
          />
        )}
        <TextInput
          name="person-title"
          mt="sm"
          label={machine ? 'What it is called' : 'Person'}
          value={change.title}
          onChange={e => set({ title: e.currentTarget.value })}
          error={fault('title')}
        />
        <Select
          mt="sm"
          label="Role"
          data={roles}
          value={change.role}
          onChange={r => set({ role: r as Role })}
          allowDeselect={false}
          error={fault('role')}
        />
        <TagsInput
          mt="sm"
          label="Sees only these units"
          description="codes, with all below; UF:site for one kind of them, -UF-MAR for an exception; none for no limit"
          value={change.units}
          onChange={u => set({ units: u })}
          error={fault('units')}
        />
        <MultiSelect
          mt="sm"
          label="May, beyond the role"
          data={single}
          value={change.given}
          onChange={g => set({ given: g as Single[] })}
          error={fault('given')}
        />
        <MultiSelect
          mt="sm"
          label="May not, although the role may"
          data={single}
          value={change.withheld}
          onChange={w => set({ withheld: w as Single[] })}
          error={fault('withheld')}
        />
        {!machine && (
          <PasswordInput
            mt="sm"
            label={person ? 'New password' : 'Password'}
            description={person ? 'left empty, the present one stays' : undefined}
            autoComplete="new-password"
            value={password}
            onChange={e => setPassword(e.currentTarget.value)}
            error={fault('password')}
          />
        )}
        {person && (
          <Switch
            mt="md"
            label="Closed: may not sign in"
            checked={change.closed}
            onChange={e => set({ closed: e.currentTarget.checked })}
          />
        )}
        {general && <p className="told">{general}</p>}
        <Group mt="md" justify="flex-end">
          <Button type="submit" loading={save.isPending}>
            Keep
          </Button>
        </Group>
      </form>
    </Modal>
  )
}
