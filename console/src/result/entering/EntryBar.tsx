import { Button, FileButton, TextInput } from '@mantine/core'
import { useContext, useState } from 'react'
import { count, moment } from '../../parts/said'
import { EnteringContext } from './entering'
import classes from './EntryBar.module.css'

type Props = {
  /** As of when entries count; '' for now. */
  asOf: string
  onAsOf: (to: string) => void
}

/** What was typed in beside the rows of a sheet, whose rows are gone, and what can be done about it. */
export function EntryBar({ asOf, onAsOf }: Props) {
  const entering = useContext(EnteringContext)
  const [typed, setTyped] = useState(asOf)
  if (!entering) return null
  const cells = entering.entries.filter(e => e.value && e.row !== undefined)
  const lost = entering.entries.filter(e => e.value && e.row === undefined)
  const last = entering.entries.at(-1)
  const open = [...entering.columns.values()].some(c => !c.closed)
  const closed = [...new Set([...entering.columns.values()].map(c => c.closed).filter(Boolean))]
  return (
    <div className={classes.bar} data-entering>
      <span>
        {cells.length === 0
          ? 'Nothing is filled in.'
          : `${count(cells.length, 'cell is', 'cells are')} filled in, the last by ${last!.person}, ${moment(last!.at)}.`}
        {!open && closed.length > 0 && ` It is closed to you: ${closed.join('; ')}.`}
      </span>
      {open && (
        <>
          <Button size="compact-sm" variant="subtle" loading={entering.busy} onClick={entering.undo}>
            Undo my last
          </Button>
          <FileButton accept=".csv,text/csv" onChange={f => f && entering.putFile(f)}>
            {props => (
              <Button size="compact-sm" variant="subtle" {...props}>
                Fill in from a file
              </Button>
            )}
          </FileButton>
        </>
      )}
      <form className={classes.asOf} onSubmit={e => (e.preventDefault(), onAsOf(typed.trim()))}>
        <TextInput
          size="xs"
          w="9rem"
          aria-label="As of which day entries count"
          placeholder="as of now"
          value={typed}
          onChange={e => setTyped(e.currentTarget.value)}
          onBlur={() => typed.trim() !== asOf && onAsOf(typed.trim())}
        />
      </form>
      {entering.error && (
        <p className={classes.error} role="alert">
          {entering.error}
        </p>
      )}
      {lost.length > 0 && (
        <details className={classes.lost}>
          <summary>{count(lost.length, 'entry has', 'entries have')} no row here</summary>
          <ul>
            {lost.map(e => (
              <li key={e.number}>
                {e.key.join(', ')}: {entering.columns.get(e.column)?.label ?? e.column} {e.value}, by{' '}
                {e.person}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  )
}
