import { Popover } from '@mantine/core'
import { useNavigate, useSearchParams } from 'react-router'
import type { Schemas } from '../../api/client'
import { moveFocus } from '../../parts/moveFocus'
import { count } from '../../parts/said'
import classes from './FigureMenu.module.css'
import { opened, stepFrom, type FigureAt } from './trail'
import { useOpening } from './useOpening'
import { number } from '../../parts/form'

export type Opened = { at: DOMRect; view: string; cell: FigureAt }

type Props = {
  result: string
  opened: Opened | undefined
  onClose: () => void
  /** Somebody wants to write a note on the rows behind the figure. */
  onNote: (about: Schemas['NoteAbout']) => void
}

/** Beside a figure: the rows that made it, and what they can be grouped by. */
export function FigureMenu({ result, opened: o, onClose, onNote }: Props) {
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const step = o && stepFrom(params, o.view, o.cell)
  const opening = useOpening(result, step)
  if (!o || !step) return null
  const go = (by?: string) => {
    if (!opening.data) return
    navigate(`?${opened(params, step, opening.data, by)}`)
    onClose()
  }
  const d = opening.data
  return (
    <Popover
      withRoles={false}
      opened
      onDismiss={onClose}
      trapFocus
      shadow="md"
      position="bottom-start"
      width={300}
      withinPortal
    >
      <Popover.Target>
        <span
          className={classes.anchor}
          style={{ left: o.at.left, top: o.at.top, width: o.at.width, height: o.at.height }}
        />
      </Popover.Target>
      <Popover.Dropdown
        role="dialog"
        aria-label="Open the figure"
        className={classes.menu}
        onKeyDown={e => moveFocus(e, 'button')}
        data-figure-menu
      >
        {opening.error && (
          <p className="told" role="alert">
            {opening.error.message}
          </p>
        )}
        {!d && !opening.error && <p className="dim">Finding the rows…</p>}
        {d && (
          <>
            <p className={classes.says}>
              {d.says}
              <br />
              <strong className="figure">{d.before || 'nothing'}</strong>
            </p>
            <button type="button" data-rows-behind onClick={() => go()}>
              {count(d.rows, 'row', 'rows')} behind it
            </button>
            <button
              type="button"
              onClick={() => {
                onNote({ view: d.view, filters: d.filters, says: d.says })
                onClose()
              }}
            >
              Write a note on it
            </button>
            {d.by.length > 0 && <p className={classes.by}>The same by</p>}
            {d.by.map(b => (
              <button key={b.text} type="button" data-by={b.text} onClick={() => go(b.text)}>
                {b.label}
                {b.groups ? <span className="dim figure"> {number(b.groups)}</span> : null}
              </button>
            ))}
          </>
        )}
      </Popover.Dropdown>
    </Popover>
  )
}
