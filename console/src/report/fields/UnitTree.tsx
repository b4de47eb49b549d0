import { useState, type KeyboardEvent } from 'react'
import type { Entry } from '../../api/client'
import { moveFocus } from '../../parts/moveFocus'
import classes from './UnitTree.module.css'

type Props = {
  entries: Entry[]
  chosen: string[]
  search: string
  onFlip: (code: string) => void
  onAll: () => void
  onDone: () => void
}

/** Does something when a key is pressed, in the place of what the browser does. */
function act(pressed: KeyboardEvent, key: string, does: () => void) {
  if (pressed.key !== key) return
  pressed.preventDefault()
  does()
}

/**
 * The tree of units. Arrows move, Space picks, a picks all, left and right fold, Enter is done. A
 * search opens the way to what it finds.
 */
export function UnitTree({ entries, chosen, search, onFlip, onAll, onDone }: Props) {
  const [opened, setOpened] = useState<Record<string, boolean>>({})
  const parents = new Map(entries.map(e => [e.code, e.parent]))
  const above = (code: string): string[] => {
    const parent = parents.get(code)
    return parent ? [parent, ...above(parent)] : []
  }
  const words = plain(search).split(/\s+/).filter(Boolean)
  const hits = entries.filter(e => words.every(w => plain(e.label + ' ' + e.code).includes(w)))
  const way = new Set(words.length ? hits.flatMap(e => [e.code, ...above(e.code)]) : chosen.flatMap(above))
  // Units whose parent a person may not see are the tops of their own tree.
  const top = (e: Entry) => !e.parent || !parents.has(e.parent)
  const isOpen = (e: Entry) =>
    opened[e.code] ?? (way.has(e.code) || top(e) || (words.length > 0 && way.has(e.code)))
  const draw = (parent: string | undefined, covered: boolean, depth: number): React.ReactNode =>
    entries
      .filter(
        e =>
          (parent === undefined ? top(e) : e.parent === parent) &&
          (words.length === 0 || way.has(e.code) || covered),
      )
      .map(e => {
        const below = entries.filter(b => b.parent === e.code).length
        const picked = chosen.includes(e.code)
        return (
          <div key={e.code} role="none">
            <div
              role="treeitem"
              tabIndex={0}
              className={classes.unit}
              style={{ paddingLeft: `${depth * 1.1}rem` }}
              data-covered={covered || undefined}
              aria-selected={picked}
              aria-expanded={below ? isOpen(e) : undefined}
              aria-level={depth + 1}
              onKeyDown={k => {
                act(k, ' ', () => onFlip(e.code))
                act(k, 'Enter', onDone)
                act(k, 'a', onAll)
                if (k.key === 'ArrowRight') setOpened({ ...opened, [e.code]: true })
                if (k.key === 'ArrowLeft') setOpened({ ...opened, [e.code]: false })
              }}
            >
              <button
                type="button"
                tabIndex={-1}
                className={classes.fold}
                aria-hidden
                onClick={() => setOpened({ ...opened, [e.code]: !isOpen(e) })}
              >
                {below ? (isOpen(e) ? '▾' : '▸') : ''}
              </button>
              {/* Keys are the item's; a click on its name is for pointers. */}
              {/* eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions */}
              <span className={classes.name} onClick={() => onFlip(e.code)}>
                <span className={classes.tick}>{picked ? '●' : covered ? '·' : '○'}</span>
                {e.current ? e.label : <s>{e.label}</s>}{' '}
                <small>{below ? `${e.code}, ${below}` : e.code}</small>
              </span>
            </div>
            {below > 0 && isOpen(e) && draw(e.code, covered || picked, depth + 1)}
          </div>
        )
      })
  return (
    // The items take the focus in turn, not the tree.
    // eslint-disable-next-line jsx-a11y/interactive-supports-focus
    <div
      role="tree"
      aria-multiselectable
      className={classes.tree}
      onKeyDown={e => moveFocus(e, '[role=treeitem]')}
    >
      {draw(undefined, false, 0)}
      {words.length > 0 && hits.length === 0 && <p className={classes.none}>No unit is found.</p>}
    </div>
  )
}

/** A text without case and accents. */
function plain(text: string) {
  return text.normalize('NFD').replace(/\p{M}/gu, '').toLowerCase()
}
