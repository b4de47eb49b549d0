import { Button, Checkbox, Group, Modal, TagsInput, Textarea, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, Refusal, type Result, type Sheet, type Take } from '../../api/client'
import { searchOf, type Reading } from '../reading'
import { TakeForm } from './TakeForm'

type Props = {
  result: Result
  view: string
  sheet: Sheet
  reading: Reading
  /** Views that go with it, where it is a page that is sent. */
  also?: string[]
}

// The names stand in the dialog itself, whose keys lead through them.
const inDialog = {
  comboboxProps: { withinPortal: false },
  withScrollArea: false,
  styles: { options: { maxHeight: '12rem', overflowY: 'auto' as const } },
}

/** Sends a view by mail as it is laid out. */
export function SendDialog({ result, view, sheet, reading, also = [] }: Props) {
  const [open, { open: show, close }] = useDisclosure(false)
  const [take, setTake] = useState<Take>({ format: 'xlsx', table: { mark: true }, also })
  const [mail, setMail] = useState({
    to: [] as string[],
    copy: [] as string[],
    blind: [] as string[],
    subject: '',
    text: '',
    inBody: false,
  })
  const set = (part: Partial<typeof mail>) => setMail({ ...mail, ...part })
  const book = useQuery({
    queryKey: ['addresses'],
    queryFn: () => answer(api.GET('/addresses')),
    enabled: open,
  })
  const names = [...new Set(book.data?.flatMap(e => [e.nickname, ...e.groups]))].sort()
  const sent = useQuery({
    queryKey: ['parcels', 'lately'],
    queryFn: () => answer(api.GET('/parcels', { params: { query: { limit: 20 } } })),
    enabled: open,
  })
  // Whom one wrote to last, each once.
  const recent = [
    ...new Map(sent.data?.flatMap(p => p.recipients.map(r => [r.address, r.name || r.address] as const))),
  ].slice(0, 5)
  const send = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/results/{result}/send', {
          params: { path: { result: result.id } },
          body: { ...mail, takes: [{ ...take, view, changes: searchOf(reading) }] },
        }),
      ),
  })
  const fault = (field: string) =>
    send.error instanceof Refusal
      ? send.error.problem.fields.find(f => f.field === field)?.message
      : undefined
  const general = send.error && !['to', 'copy', 'blind'].some(fault) ? send.error.message : undefined
  return (
    <>
      <Button size="compact-sm" variant="subtle" onClick={show}>
        Send
      </Button>
      <Modal
        opened={open}
        onClose={() => (close(), send.reset())}
        title={`Send ${also.length ? result.title : sheet.title}`}
        size="lg"
      >
        {send.data ? (
          <>
            <p>
              {send.data.id} is on its way to {send.data.recipients.map(r => r.name || r.address).join(', ')}.
            </p>
            <Link to={`/sending?parcel=${send.data.id}`}>See what becomes of it</Link>
          </>
        ) : (
          <form onSubmit={e => (e.preventDefault(), send.mutate())}>
            {recent.length > 0 && (
              <Group gap={6} mb={6}>
                <span className="dim">Lately to</span>
                {recent.map(([address, name]) => (
                  <Button
                    key={address}
                    data-lately={address}
                    size="compact-xs"
                    variant="default"
                    disabled={mail.to.includes(address)}
                    onClick={() => set({ to: [...mail.to, address] })}
                  >
                    {name}
                  </Button>
                ))}
              </Group>
            )}
            <TagsInput
              {...inDialog}
              data-autofocus
              label="To"
              placeholder="nickname, group or mail address"
              data={names}
              value={mail.to}
              onChange={to => set({ to })}
              error={fault('to')}
            />
            <Textarea
              mt="xs"
              label="Text"
              name="text"
              autosize
              minRows={2}
              placeholder="{title}, {sentence}, {rows} rows, {result}, {link}"
              value={mail.text}
              onChange={e => set({ text: e.currentTarget.value })}
              onKeyDown={e => {
                if (e.key !== 'Enter' || !(e.ctrlKey || e.metaKey)) return
                e.preventDefault()
                send.mutate()
              }}
            />
            <TagsInput
              {...inDialog}
              mt="xs"
              label="Copy"
              data={names}
              value={mail.copy}
              onChange={copy => set({ copy })}
              error={fault('copy')}
            />
            <TagsInput
              {...inDialog}
              mt="xs"
              label="Blind copy"
              data={names}
              value={mail.blind}
              onChange={blind => set({ blind })}
              error={fault('blind')}
            />
            <TextInput
              mt="xs"
              label="Subject"
              placeholder={result.title}
              value={mail.subject}
              onChange={e => set({ subject: e.currentTarget.value })}
            />
            <Checkbox
              my="sm"
              label="The sheets stand in the message too"
              checked={mail.inBody}
              onChange={e => set({ inBody: e.currentTarget.checked })}
            />
            <TakeForm
              take={take}
              onChange={setTake}
              chart={sheet.chart !== undefined}
              others={result.views.filter(v => v.id !== view)}
            />
            {general && (
              <p className="told" role="alert">
                {general}
              </p>
            )}
            <Button mt="md" type="submit" loading={send.isPending}>
              Send
            </Button>
          </form>
        )}
      </Modal>
    </>
  )
}
