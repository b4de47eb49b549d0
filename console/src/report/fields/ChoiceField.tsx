import { Button, Chip, Group, MultiSelect, Popover, Textarea } from '@mantine/core'
import { useState } from 'react'
import { moveFocus } from '../../parts/moveFocus'
import { codesIn, type FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { useEntries } from './entries'
import { tiesOf } from './ties'

/** Lists no longer than this are shown as chips. */
const chipsUpTo = 14

/**
 * One or several entries of a list: picked, or pasted as a list. What is not an entry stays in sight
 * until it is mended.
 */
export function ChoiceField(props: FieldProps) {
  const { report, parameter, value, onChange, fault, given } = props
  const fetched = useEntries(
    report,
    parameter.id,
    '',
    500,
    given,
    parameter.options.length === 0 && (!props.list || given.length > 0),
  )
  const entries = parameter.options.length ? parameter.options : (fetched.data ?? props.list ?? [])
  const typed = codesIn(value)
  const chosen = typed.map(t => entries.find(e => same(e.code, t) || same(e.label, t))?.code ?? t)
  const unknown = chosen.filter(c => !entries.some(e => e.code === c))
  const set = (codes: string[]) => onChange(codes.join('; '))
  const all = () => set(chosen.length ? [] : entries.filter(e => !e.out).map(e => e.code))
  const hint = chosen.length === 0 ? parameter.all || undefined : undefined
  const kind = parameter.many ? {} : { type: 'radio' as const, name: parameter.id }
  const { 'aria-describedby': described, ...required } = tiesOf(props)
  const tied = { 'aria-describedby': described, ...(parameter.many ? {} : required) }
  const tools = parameter.many && entries.length > 2 && (
    <>
      <Button size="compact-xs" variant="subtle" onClick={all}>
        {chosen.length ? 'None' : 'All'}
      </Button>
      <Paste label={parameter.label} onPaste={onChange} />
    </>
  )
  if (entries.length > chipsUpTo) {
    return (
      <FieldFrame {...props} hint={hint}>
        <Group gap={6} align="flex-start">
          <MultiSelect
            {...tiesOf(props)}
            name={parameter.id}
            aria-label={parameter.label}
            searchable
            clearable
            flex={1}
            maw="34rem"
            error={Boolean(fault)}
            maxValues={parameter.many ? undefined : 1}
            data={[
              ...entries.map(e => ({ value: e.code, label: said(e) })),
              ...unknown.map(u => ({ value: u, label: u })),
            ]}
            value={chosen}
            onChange={set}
          />
          {tools}
        </Group>
      </FieldFrame>
    )
  }
  return (
    <FieldFrame {...props} hint={hint}>
      <Group
        gap={6}
        role={parameter.many ? 'group' : 'radiogroup'}
        aria-label={parameter.label}
        {...tied}
        onKeyDown={e => {
          if (e.key === 'a' && parameter.many && (e.target as HTMLElement).tagName === 'INPUT') {
            e.preventDefault()
            all()
          }
          moveFocus(e, 'input', ['ArrowLeft', 'ArrowRight'])
        }}
      >
        {!parameter.many && !parameter.required && (
          <Chip
            type="radio"
            name={parameter.id}
            variant="outline"
            color="sea.7"
            size="sm"
            checked={chosen.length === 0}
            onChange={() => set([])}
          >
            {parameter.all || 'none'}
          </Chip>
        )}
        {entries.map(e => (
          <Chip
            key={e.code}
            {...kind}
            variant="outline"
            color="sea.7"
            size="sm"
            checked={chosen.includes(e.code)}
            disabled={e.out && !chosen.includes(e.code)}
            title={
              e.out
                ? `${e.code}, ruled out by the other values`
                : e.current
                  ? e.code
                  : `${e.code}, no longer in use`
            }
            onChange={() =>
              parameter.many
                ? set(chosen.includes(e.code) ? chosen.filter(c => c !== e.code) : [...chosen, e.code])
                : set([e.code])
            }
          >
            {e.current ? e.label : <s>{e.label}</s>}
          </Chip>
        ))}
        {unknown.map(u => (
          <Chip
            key={u}
            variant="outline"
            color="brick"
            size="sm"
            checked
            onChange={() => set(chosen.filter(c => c !== u))}
          >
            {u}
          </Chip>
        ))}
        {tools}
      </Group>
    </FieldFrame>
  )
}

type PasteProps = { label: string; onPaste: (text: string) => void }

/** Takes a list of codes or labels, one a line or with commas or semicolons between. */
function Paste({ label, onPaste }: PasteProps) {
  const [text, setText] = useState('')
  const [open, setOpen] = useState(false)
  return (
    <Popover opened={open} onChange={setOpen} trapFocus shadow="md">
      <Popover.Target>
        <Button size="compact-xs" variant="subtle" onClick={() => setOpen(!open)}>
          Paste a list
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Textarea
          aria-label={`A list for ${label}`}
          placeholder="one a line, or with , or ; between"
          autosize
          minRows={4}
          maxRows={10}
          value={text}
          onChange={e => setText(e.currentTarget.value)}
          data-autofocus
        />
        <Button
          size="xs"
          mt="xs"
          onClick={() => (
            onPaste(
              text
                .split(/[;\n]/)
                .map(t => t.trim())
                .filter(Boolean)
                .join('; '),
            ),
            setOpen(false)
          )}
        >
          Take it
        </Button>
      </Popover.Dropdown>
    </Popover>
  )
}

function said(e: { label: string; current: boolean; out?: boolean }) {
  return e.label + (e.out ? ' (ruled out)' : e.current ? '' : ' (no longer in use)')
}

function same(a: string, b: string) {
  return a.localeCompare(b, undefined, { sensitivity: 'base' }) === 0
}
