import { useSortable } from '@dnd-kit/sortable'
import { CSS } from '@dnd-kit/utilities'
import { ActionIcon } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Tile } from '../api/client'
import { age } from '../parts/said'
import classes from './Desk.module.css'
import { addressOf, Part } from './Part'

type Props = { tile: Tile; onEdit: () => void; onRemove: () => void }

/** One tile: what it shows now, how old it is, and a handle to move it by pointer or keyboard. */
export function TileCard({ tile, onEdit, onRemove }: Props) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({
    id: tile.id ?? '',
  })
  const [open, setOpen] = useState(false)
  const now = useQuery({
    queryKey: ['tile', tile],
    queryFn: () => answer(api.POST('/tile', { body: tile })),
    refetchInterval: 30_000,
  })
  const n = now.data
  const address = n?.result && addressOf(n.result, tile)
  return (
    <li
      ref={setNodeRef}
      className={classes.tile}
      data-tile={tile.id}
      data-across={tile.width ?? (tile.show === 'figure' ? 1 : 2)}
      data-down={tile.height ?? (tile.show === 'figure' ? 1 : 2)}
      data-open={open || undefined}
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
        {n?.result && (
          <ActionIcon
            size="sm"
            variant="subtle"
            aria-label={open ? `Close ${n.title}` : `Open ${n.title} here`}
            aria-expanded={open}
            onClick={() => setOpen(!open)}
          >
            {open ? '▴' : '▾'}
          </ActionIcon>
        )}
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
      {n?.result && (tile.show !== 'figure' || open) && <Part result={n.result} tile={tile} whole={open} />}
      {n?.result && (
        <footer className="dim" title={n.sentence}>
          {age(n.seconds ?? 0)} old · {n.sentence}
        </footer>
      )}
    </li>
  )
}
