import {
  Button,
  Checkbox,
  FileInput,
  Group,
  Modal,
  MultiSelect,
  SegmentedControl,
  Select,
  Textarea,
  TextInput,
} from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Opening, type Schemas } from '../../api/client'
import { moment, size } from '../../parts/said'
import { tellChanged } from '../../trash/undo'
import { idOf } from '../idOf'
import classes from '../Office.module.css'
import { at } from '../../api/below'

type Props = { resource: Schemas['Resource'] | undefined; onDone: () => void }

/** A document with a file, or a link with an address; and to whom one on a shelf is open. */
export function ResourceForm({ resource: r, onDone }: Props) {
  const whole = useQuery({
    queryKey: ['resource', r?.id, r?.revision],
    queryFn: () => answer(api.GET('/resources/{resource}', { params: { path: { resource: r!.id } } })),
    enabled: r !== undefined,
  })
  return (
    <Modal opened onClose={onDone} title={r ? r.title : 'New document or link'} size="lg">
      {(!r || whole.data) && <Fields resource={r} whole={whole.data} onDone={onDone} />}
    </Modal>
  )
}

const nobody: Opening = { everyone: false, groups: [], people: [] }

function Fields({ resource: r, whole, onDone }: Props & { whole: Schemas['ResourceWhole'] | undefined }) {
  const client = useQueryClient()
  const [id, setId] = useState(r?.id ?? '')
  const [kind, setKind] = useState(r?.address ? 'link' : 'document')
  const [title, setTitle] = useState(r?.title ?? '')
  const [about, setAbout] = useState(r?.about ?? '')
  const [category, setCategory] = useState(r?.category ?? '')
  const [report, setReport] = useState<string | null>(r?.report ?? null)
  const [address, setAddress] = useState(r?.address ?? '')
  const [file, setFile] = useState<File | null>(null)
  const [note, setNote] = useState('')
  const [open, setOpen] = useState<Opening>(whole?.open ?? nobody)
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const groups = useQuery({ queryKey: ['groups'], queryFn: () => answer(api.GET('/groups')) })
  const put = (revision: number | undefined, body: Schemas['ResourceChange']) =>
    answer(
      api.PUT('/resources/{resource}', {
        params: { path: { resource: id }, header: revision ? { 'If-Match': String(revision) } : {} },
        body,
      }),
    )
  const keep = useMutation({
    mutationFn: async () => {
      const kept = await put(r?.revision, {
        title,
        about,
        category,
        ...(report ? { report } : { open }),
        ...(kind === 'link' ? { address } : {}),
      })
      if (r && whole) {
        const was = { title: r.title, about: r.about, category: r.category, address: r.address }
        const to = r.report ? { report: r.report } : { open: whole.open }
        tellChanged(r.title, () => put(kept.revision, { ...was, ...to }))
      }
      if (kind !== 'document' || !file) return
      try {
        await answer(
          api.POST('/resources/{resource}/versions', {
            params: { path: { resource: kept.id }, query: { name: file.name, note } },
            body: file as unknown as string,
            bodySerializer: b => b,
            headers: { 'Content-Type': 'application/octet-stream' },
          }),
        )
      } catch (failed) {
        // a new document whose file is refused is none
        if (!r) await answer(api.DELETE('/resources/{resource}', { params: { path: { resource: kept.id } } }))
        throw failed
      }
    },
    onSuccess: async () => {
      await client.invalidateQueries()
      onDone()
    },
  })
  return (
    <form onSubmit={e => (e.preventDefault(), keep.mutate())}>
      {!r && (
        <SegmentedControl
          mb="sm"
          size="xs"
          aria-label="What it is"
          data={[
            { value: 'document', label: 'Document' },
            { value: 'link', label: 'Link' },
          ]}
          value={kind}
          onChange={setKind}
        />
      )}
      <TextInput
        label="Title"
        required
        value={title}
        data-autofocus
        onChange={e => {
          setTitle(e.currentTarget.value)
          if (!r) setId(idOf(e.currentTarget.value))
        }}
      />
      {!r && (
        <TextInput mt="sm" label="Id" required value={id} onChange={e => setId(e.currentTarget.value)} />
      )}
      <Textarea
        mt="sm"
        label="About"
        autosize
        value={about}
        onChange={e => setAbout(e.currentTarget.value)}
      />
      <Group mt="sm" grow align="start">
        <TextInput
          label="Shelf"
          description="a category"
          required
          value={category}
          onChange={e => setCategory(e.currentTarget.value)}
        />
        <Select
          label="Beside a report"
          description="open to whom the report is"
          clearable
          searchable
          data={catalog.data?.reports.map(o => ({ value: o.id, label: o.title })) ?? []}
          value={report}
          onChange={setReport}
        />
      </Group>
      {kind === 'link' ? (
        <TextInput
          mt="sm"
          label="Address"
          placeholder="https://"
          required
          value={address}
          onChange={e => setAddress(e.currentTarget.value)}
        />
      ) : (
        <Group mt="sm" grow align="start">
          <FileInput
            label={r ? 'A new version' : 'File'}
            description="PDF, picture, text, spreadsheet or office document without programs, up to 20 MiB"
            value={file}
            onChange={setFile}
            clearable
          />
          {r && (
            <TextInput
              label="What is new in it"
              description="stands beside the version"
              value={note}
              onChange={e => setNote(e.currentTarget.value)}
            />
          )}
        </Group>
      )}
      {!report && (
        <>
          <Checkbox
            mt="md"
            label="Open to everyone"
            checked={open.everyone}
            onChange={e => setOpen({ ...open, everyone: e.currentTarget.checked })}
          />
          <MultiSelect
            mt="sm"
            label="Open to groups"
            data={groups.data?.map(g => ({ value: g.id, label: g.title })) ?? []}
            value={open.groups}
            onChange={g => setOpen({ ...open, groups: g })}
          />
        </>
      )}
      {whole && whole.versions.length > 0 && (
        <ul className={classes.versions}>
          {whole.versions.map(v => (
            <li key={v.number}>
              <a href={at(`/api/resources/${r!.id}/file?version=${v.number}`)} download={v.name}>
                Version {v.number}
              </a>{' '}
              <span className="dim">
                {v.name}, {size(v.bytes)}, {moment(v.at)} by {v.by}
                {v.note && `: ${v.note}`}
              </span>
            </li>
          ))}
        </ul>
      )}
      {keep.error && (
        <p role="alert" className={classes.wrong}>
          {keep.error.message}
        </p>
      )}
      <Group justify="flex-end" mt="md">
        <Button type="submit" loading={keep.isPending}>
          Keep
        </Button>
      </Group>
    </form>
  )
}
