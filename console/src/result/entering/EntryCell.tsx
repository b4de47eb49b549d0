import { useContext, useEffect, useRef } from 'react'
import type { Column } from '../../api/client'
import { moment } from '../../parts/said'
import { EnteringContext } from './entering'
import classes from './EntryCell.module.css'

type Props = { column: Column; text: string | null | undefined; row: number; at: boolean; tone?: string }

/** A cell that people fill in: what stands there, and a field for it while it is filled in. */
export function EntryCell({ column, text, row, at, tone }: Props) {
  const entering = useContext(EnteringContext)
  const entry = entering?.at(row, column.id)
  const typed = entry?.value ? entry : undefined
  const about = entering?.columns.get(column.id)
  const editing = entering?.editing?.row === row && entering.editing.column === column.id
  const closed = about?.closed ?? (entering ? undefined : 'not just now')
  const says = typed
    ? `${typed.person}, ${moment(typed.at)}${typed.says ? `: ${typed.says}` : ''}`
    : closed
      ? `Closed: ${closed}`
      : 'Nobody filled it in'
  return (
    <div
      role="cell"
      data-at={at || undefined}
      data-tone={tone || undefined}
      data-entry={typed ? 'typed' : 'open'}
      className={`${classes.cell} ${column.right ? classes.right : ''}`}
      title={says}
    >
      {editing && about ? (
        <Field
          key={entry?.number}
          label={`${column.label}, row ${row}`}
          options={about.options}
          value={typed?.value ?? ''}
          onDone={value => {
            entering.edit(undefined)
            if (value !== undefined && value !== (typed?.value ?? ''))
              entering.put([{ row, column: column.id, value }], 'typed')
          }}
        />
      ) : (
        <button
          type="button"
          tabIndex={-1}
          disabled={closed !== undefined}
          aria-label={`Fill in ${column.label}, row ${row}`}
          onClick={() => entering?.edit({ row, column: column.id })}
        >
          {text || '\u00a0'}
        </button>
      )}
    </div>
  )
}

type FieldProps = {
  label: string
  options: string[]
  value: string
  /** Ends with a value, or without one where nothing is to change. */
  onDone: (value: string | undefined) => void
}

function Field({ label, options, value, onDone }: FieldProps) {
  const field = useRef<HTMLInputElement & HTMLSelectElement>(null)
  const over = useRef(false)
  useEffect(() => {
    field.current?.focus()
    if (field.current instanceof HTMLInputElement) field.current.select()
  }, [])
  const end = (to: string | undefined) => {
    if (over.current) return
    over.current = true
    const sheet = field.current?.closest<HTMLElement>('[data-sheet]')
    onDone(to)
    sheet?.focus()
  }
  const keys = (e: React.KeyboardEvent) => {
    e.stopPropagation()
    if (e.key === 'Escape') end(undefined)
    if (e.key === 'Enter' || e.key === 'Tab') {
      e.preventDefault()
      end(field.current!.value)
    }
  }
  const common = {
    ref: field,
    className: classes.field,
    'aria-label': label,
    defaultValue: value,
    onKeyDown: keys,
    onBlur: () => end(field.current?.value),
  }
  if (options.length === 0) return <input {...common} />
  return (
    <select {...common}>
      <option value="">–</option>
      {options.map(o => (
        <option key={o} value={o}>
          {o}
        </option>
      ))}
    </select>
  )
}
