import type { Sheet } from '../../api/client'
import { asMade, isChanged, type Change, type Part, type Reading } from '../reading'
import { useSteps } from '../steps'
import classes from './Told.module.css'

/** How it is said that nothing of a part is meant, where a kept view has something; none elsewhere. */
const nothing: Partial<Record<Part, string[]>> = { zeros: ['show'], most: ['0'] }

type Props = { sheet: Sheet; reading: Reading; onChange: Change }

/**
 * What was done to the view, in the sentence that every output of it has. Each part of it can be taken
 * away, and all at once; the last step can be undone.
 */
export function Told({ sheet: s, reading, onChange }: Props) {
  const { undo, redo } = useSteps()
  if (!s.told && !isChanged(reading) && !undo && !redo) return null
  const without = (part: string, text: string | undefined) => {
    const entries: Record<string, string[]> = {
      filter: s.filters.map(f => f.text),
      add: reading.add,
      total: reading.total,
    }
    if (part === 'across') return onChange({ show: [], down: [], across: [], cell: [] })
    if (part === 'group' && !reading.group.length) return onChange({ group: ['none'] }) // of a kept view
    const left = text === undefined ? [] : entries[part].filter(e => e !== text)
    const ended = s.kept && part !== 'add' && left.length === 0
    onChange({ [part as Part]: ended ? (nothing[part as Part] ?? ['none']) : left })
  }
  return (
    <div className={classes.line}>
      <p className={classes.told} data-told={s.told ? '' : undefined}>
        {s.pieces.map((p, i) =>
          p.part ? (
            <button
              key={i}
              type="button"
              className={classes.piece}
              aria-label={`Take away: ${p.says}`}
              onClick={() => without(p.part!, p.text)}
            >
              {p.says}
            </button>
          ) : (
            <span key={i}>{p.says}</span>
          ),
        )}
        {s.extract && ' This is an extract.'}
      </p>
      {isChanged(reading) && (
        <button type="button" className="act" onClick={() => onChange(asMade)}>
          As made
        </button>
      )}
      {undo && (
        <button type="button" className="act" title="Ctrl Z" onClick={undo}>
          Undo
        </button>
      )}
      {redo && (
        <button type="button" className="act" title="Ctrl Shift Z" onClick={redo}>
          Redo
        </button>
      )}
    </div>
  )
}
