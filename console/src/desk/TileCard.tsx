import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { ActionIcon } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type Tile } from '../api/client'
import { age } from '../parts/said'
import { ChartView } from '../result/chart/ChartView'
import { asMade } from '../result/reading'
import { useSheet } from '../result/sheet/pages'
import classes from './Desk.module.css'

type Props = { tile: Tile; onEdit: () => void; onRemove: () => void }

/** One tile: what it shows now, how old it is, and a handle to move it by pointer or keyboard. */
export function TileCard({ tile, onEdit, onRemove }: Props) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: tile.id ?? '',
  })
  const now = useQuery({
    queryKey: ['tile', tile],
    queryFn: () => answer(api.POST('/tile', { body: tile })),
    refetchInterval: 30_000,
  })
  const n = now.data
  const address = n?.result && `/results/${n.result}?view=${tile.view}`
  return (
    <li
      ref={setNodeRef}
      className={classes.tile}
      data-tile={tile.id}
      data-wide={tile.wide || tile.show !== 'figure' || undefined}
      data-dragging={isDragging || undefined}
      style={{ transform: CSS.Transform.toString(transform), transition }}
    >
      <header>
        <button
          className={classes.handle}
          aria-label={`Move ${n?.title ?? 'the tile'}`}
          {...attributes}
          {...listeners}
        >
          ⠿
        </button>
        <h2 title={n?.title}>{address ? <Link to={address}>{n.title}</Link> : n?.title || tile.control}</h2>
        <ActionIcon size="sm" variant="subtle" aria-label="Change the tile" onClick={onEdit}>
          …
        </ActionIcon>
        <ActionIcon size="sm" variant="subtle" aria-label="Take the tile away" onClick={onRemove}>
          ×
        </ActionIcon>
      </header>
      {now.error && <p className="told">{now.error.message}</p>}
      {n && !n.result && <p className="dim">It has not run yet.</p>}
      {n?.result && tile.show === 'figure' && (
        <div className={classes.figure}>
          <span className="dim">{n.label}</span>
          <strong>{n.figure ?? '–'}</strong>
          {n.before && (
            <span data-change className={classes.change}>
              {n.change === undefined ? (
                'nothing to compare with'
              ) : (
                <>
                  {n.rose === true ? '▲ ' : n.rose === false ? '▼ ' : ''}
                  {n.change}
                  {n.percent && ` (${n.percent} %)`}
                </>
              )}{' '}
              <Link to={`/results/${n.before}?view=${tile.view}`}>since {n.was ?? n.before}</Link>
            </span>
          )}
        </div>
      )}
      {n?.result && tile.show !== 'figure' && <Part result={n.result} tile={tile} />}
      {n?.result && (
        <footer className="dim" title={n.sentence}>
          {age(n.seconds ?? 0)} old · {n.sentence}
        </footer>
      )}
    </li>
  )
}

/** The chart or the first lines of a view. */
function Part({ result, tile }: { result: string; tile: Tile }) {
  const sheet = useSheet(result, tile.view, asMade)
  const s = sheet.data
  if (!s) return null
  if (s.chart)
    return (
      <div className={classes.chart}>
        <ChartView sheet={s} tall={false} onFigure={() => undefined} onRow={() => undefined} />
      </div>
    )
  const named = s.levels.length > 0
  return (
    <table className={classes.short}>
      <thead>
        <tr>
          {named && <th>{s.levels.map(l => l.label).join(' › ')}</th>}
          {s.columns.slice(0, 6).map(c => (
            <th key={c.id + c.path} data-right={c.right || undefined}>
              {c.heads.join(' ') || c.heading}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {s.cells.slice(0, 8).map((cells, i) => (
          <tr key={i}>
            {named && <td>{s.marks[i].name}</td>}
            {cells.slice(0, 6).map((t, n) => (
              <td key={n} data-right={s.columns[n].right || undefined}>
                {t}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
