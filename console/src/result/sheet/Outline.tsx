import type { Outlined } from '../../api/client'
import { moveFocus } from '../../parts/moveFocus'
import classes from './Outline.module.css'
import { number } from '../../parts/form'

type Props = { groups: Outlined[]; more: boolean; at: number | undefined; onJump: (line: number) => void }

/** The groups of a sheet, to jump by. */
export function Outline({ groups, more, at, onJump }: Props) {
  return (
    <nav className={classes.outline} aria-label="Groups" onKeyDown={e => moveFocus(e, 'button')} data-outline>
      {groups.map(g => (
        <button
          key={g.path}
          type="button"
          data-here={g.line === at || undefined}
          style={{ paddingLeft: `${0.5 + (g.level - 1) * 0.9}rem` }}
          onClick={() => onJump(g.line)}
        >
          <span>{g.name}</span>
          <span className="dim figure">{number(g.size)}</span>
        </button>
      ))}
      {more && <p className="dim">More groups follow; find one by its name.</p>}
    </nav>
  )
}
