import { Button, Checkbox, FileButton, Group, MultiSelect, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'
import { moment } from '../../parts/said'
import classes from '../Office.module.css'
import { Rows } from '../../parts/Rows'

/** Reports as one file: made here for another service, or looked at and taken in from one. */
export function Bundles() {
  return (
    <div className={classes.halves}>
      <Making />
      <Taking />
    </div>
  )
}

function Making() {
  const [reports, setReports] = useState<string[]>([])
  const [controls, setControls] = useState(false)
  const [recipients, setRecipients] = useState(false)
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const make = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/bundles', { body: { reports, controls, recipients }, parseAs: 'blob' }),
      ) as Promise<Blob>,
    onSuccess: file => {
      const link = document.createElement('a')
      link.href = URL.createObjectURL(file)
      link.download = 'reports.bundle.zip'
      link.click()
      URL.revokeObjectURL(link.href)
    },
  })
  return (
    <section>
      <h2>Make a bundle</h2>
      <p>
        Reports with what they need: shared parameters, to whom they are open, shared criteria, views for
        everyone.
      </p>
      <MultiSelect
        label="Reports"
        searchable
        data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
        value={reports}
        onChange={setReports}
      />
      <Checkbox
        mt="sm"
        label="With the run controls that run these reports alone"
        checked={controls}
        onChange={e => setControls(e.currentTarget.checked)}
      />
      <Checkbox
        mt="xs"
        label="And with those to whom they send"
        disabled={!controls}
        checked={recipients && controls}
        onChange={e => setRecipients(e.currentTarget.checked)}
      />
      {make.error && <p className={classes.wrong}>{make.error.message}</p>}
      <Group mt="md">
        <Button disabled={reports.length === 0} loading={make.isPending} onClick={() => make.mutate()}>
          Make it
        </Button>
      </Group>
    </section>
  )
}

type Mapped = { source: string; group: string; unit: string }

/** Pairs of THERE=HERE, with commas between. */
const pairs = (text: string) =>
  text
    .split(',')
    .map(p => p.trim())
    .filter(Boolean)

function Taking() {
  const client = useQueryClient()
  const [file, setFile] = useState<File | null>(null)
  const [mapped, setMapped] = useState<Mapped>({ source: '', group: '', unit: '' })
  const [note, setNote] = useState('')
  const sent = {
    body: '' as never,
    bodySerializer: () => file!,
    headers: { 'Content-Type': 'application/octet-stream' },
  }
  const query = { source: pairs(mapped.source), group: pairs(mapped.group), unit: pairs(mapped.unit) }
  const look = useMutation({
    mutationFn: () => answer(api.POST('/bundles/look', { params: { query }, ...sent })),
  })
  const take = useMutation({
    mutationFn: () => answer(api.POST('/bundles/take', { params: { query: { ...query, note } }, ...sent })),
    onSuccess: () => client.invalidateQueries(),
  })
  const anew = () => {
    look.reset()
    take.reset()
  }
  const found = take.data ?? look.data
  const error = take.error ?? look.error
  return (
    <section>
      <h2>Take a bundle</h2>
      <Group>
        <FileButton accept=".zip" onChange={f => (setFile(f), anew())}>
          {props => (
            <Button variant="default" {...props}>
              Choose a bundle
            </Button>
          )}
        </FileButton>
        {file && <span>{file.name}</span>}
      </Group>
      {(['source', 'group', 'unit'] as const).map(kind => (
        <TextInput
          key={kind}
          mt="xs"
          label={`${kind[0].toUpperCase()}${kind.slice(1)}s that are called otherwise here`}
          placeholder="THERE=HERE, with commas between"
          value={mapped[kind]}
          onChange={e => (setMapped({ ...mapped, [kind]: e.currentTarget.value }), anew())}
        />
      ))}
      <TextInput
        mt="xs"
        label="Why; it stands beside the versions"
        value={note}
        onChange={e => setNote(e.currentTarget.value)}
      />
      {error && (
        <p className={classes.wrong} role="alert">
          {error.message}
        </p>
      )}
      <Group mt="md">
        <Button variant="light" disabled={!file} loading={look.isPending} onClick={() => look.mutate()}>
          What would it do?
        </Button>
        <Button
          disabled={!look.data || look.data.blocked || take.isSuccess}
          loading={take.isPending}
          onClick={() => take.mutate()}
        >
          Take it in
        </Button>
      </Group>
      {found && <Looked found={found} taken={take.isSuccess} />}
    </section>
  )
}

function Looked({ found, taken }: { found: Schemas['BundleLook']; taken: boolean }) {
  return (
    <div aria-live="polite" data-bundle={taken ? 'taken' : 'looked'}>
      <p>
        Made by {found.by} of {found.from}, {moment(found.made)}.{' '}
        {taken
          ? 'It is taken in.'
          : found.blocked
            ? 'Something stands in the way.'
            : 'Nothing stands in the way.'}
      </p>
      <Rows heads={['State', 'What', 'More']}>
        {found.items.map((i, n) => (
          <tr key={n}>
            <td>{i.state}</td>
            <td>
              {i.kind} {i.title || i.id}
            </td>
            <td>{i.says.join('; ')}</td>
          </tr>
        ))}
      </Rows>
      {found.back.length > 0 && (
        <>
          <p>To go back:</p>
          <pre className={classes.lines}>{found.back.join('\n')}</pre>
        </>
      )}
    </div>
  )
}
