import { Checkbox, Select, TagsInput, Textarea, TextInput } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { answer, api, type ControlChange, type Send, type Split } from '../api/client'
import classes from './ControlPage.module.css'

type Props = {
  change: ControlChange
  onChange: (part: Partial<ControlChange>) => void
  fault: (part: string) => string | undefined
}

/** To whom the files of a run control go, when, and in which parts. */
export function SendForm({ change, onChange, fault }: Props) {
  const book = useQuery({ queryKey: ['addresses'], queryFn: () => answer(api.GET('/addresses')) })
  const names = [...new Set(book.data?.flatMap(e => [e.nickname, ...e.groups]))].sort()
  const send = change.send
  const set = (part: Partial<Send>) => onChange({ send: { ...send, ...part } })
  const split = (part: Partial<Split> | undefined) =>
    onChange({ split: part && { ...change.split, ...part } })
  const by = change.split?.units !== undefined ? 'units' : change.split?.column !== undefined ? 'column' : ''
  return (
    <>
      <Checkbox
        mt="sm"
        label="Send what it gives"
        checked={send !== undefined}
        onChange={e =>
          onChange(e.currentTarget.checked ? { send: {} } : { send: undefined, split: undefined })
        }
      />
      {send && (
        <div className={classes.how}>
          <TagsInput
            label="To"
            placeholder="nickname, group or mail address"
            data={names}
            value={send.to ?? []}
            onChange={to => set({ to })}
            error={fault('send.to')}
          />
          <TagsInput
            label="Copy"
            data={names}
            value={send.copy ?? []}
            onChange={copy => set({ copy })}
            error={fault('send.copy')}
          />
          <TagsInput
            label="Blind copy"
            data={names}
            value={send.blind ?? []}
            onChange={blind => set({ blind })}
            error={fault('send.blind')}
          />
          <Select
            label="One for each"
            data={[
              { value: '', label: 'all together' },
              { value: 'units', label: 'unit of a kind' },
              { value: 'column', label: 'value of a column' },
            ]}
            value={by}
            allowDeselect={false}
            onChange={v =>
              split(
                v === 'units'
                  ? { units: '', column: undefined }
                  : v === 'column'
                    ? { column: '', units: undefined }
                    : undefined,
              )
            }
            error={fault('split')}
          />
          {by === 'units' && (
            <TextInput
              label="Kind of unit"
              placeholder="district"
              description="each goes to those who stand for it in the address book"
              value={change.split?.units ?? ''}
              onChange={e => split({ units: e.currentTarget.value })}
              error={fault('split.units')}
            />
          )}
          {by === 'column' && (
            <TextInput
              label="Column"
              placeholder="grade"
              value={change.split?.column ?? ''}
              onChange={e => split({ column: e.currentTarget.value })}
              error={fault('split.column')}
            />
          )}
          {by !== '' && (
            <Textarea
              label="Who gets which part"
              description="a line for each: PART: recipients"
              autosize
              value={lines(change.split)}
              onChange={e => split({ people: people(e.currentTarget.value) })}
              error={fault('split.people')}
            />
          )}
          <TextInput
            label="Only when"
            placeholder="always; rows; or sum(value) > 10000"
            description="a condition makes it an alert"
            value={send.when ?? ''}
            onChange={e => set({ when: e.currentTarget.value || undefined })}
            error={fault('send.when')}
          />
          <TextInput
            label="Subject"
            placeholder="{title} {part}"
            value={send.subject ?? ''}
            onChange={e => set({ subject: e.currentTarget.value || undefined })}
          />
          <Textarea
            label="Text"
            autosize
            placeholder="{title} {part}, {sentence}, {rows} rows, {result}, {link}"
            value={send.text ?? ''}
            onChange={e => set({ text: e.currentTarget.value || undefined })}
          />
          <TextInput
            label="Into the folder"
            placeholder="none"
            value={send.folder ?? ''}
            onChange={e => set({ folder: e.currentTarget.value || undefined })}
            error={fault('send.folder')}
          />
          <TextInput
            label="Call the address"
            placeholder="https://"
            value={send.webhook ?? ''}
            onChange={e => set({ webhook: e.currentTarget.value || undefined })}
            error={fault('send.webhook')}
          />
          <Checkbox
            mt="xl"
            label="The sheets stand in the message too"
            checked={send.inBody ?? false}
            onChange={e => set({ inBody: e.currentTarget.checked })}
          />
          <Checkbox
            mt="xl"
            label="Pages begin with a cover"
            checked={send.page?.cover ?? false}
            onChange={e => set({ page: { ...send.page, cover: e.currentTarget.checked } })}
          />
        </div>
      )}
    </>
  )
}

function lines(split: Split | undefined) {
  return Object.entries(split?.people ?? {})
    .map(([part, who]) => `${part}: ${who.join(', ')}`)
    .join('\n')
}

function people(text: string) {
  const out: Record<string, string[]> = {}
  for (const line of text.split('\n')) {
    const [part, who = ''] = line.split(/:(.*)/)
    if (part.trim())
      out[part.trim()] = who
        .split(',')
        .map(w => w.trim())
        .filter(Boolean)
  }
  return out
}
