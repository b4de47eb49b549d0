import { ScrollArea } from '@mantine/core'
import { Link } from 'react-router'
import type { Sheet, Tile } from '../api/client'
import { number } from '../parts/form'
import { ChartView } from '../result/chart/ChartView'
import { readingOf, write } from '../result/reading'
import { useSheet } from '../result/sheet/pages'
import classes from './Desk.module.css'

type Props = { result: string; tile: Tile; whole: boolean }

/** The chart or the first lines of a view; opened where it stands, all its columns and a hundred lines. */
export function Part({ result, tile, whole }: Props) {
  const reading = readingOf(tile.changes)
  const s = useSheet(result, tile.view, reading).data
  if (!s) return null
  const address = addressOf(result, tile)
  if (s.chart)
    return (
      <div className={`${classes.part} ${classes.chart}`}>
        <ChartView sheet={s} tall={false} onFigure={() => undefined} onRow={() => undefined} />
      </div>
    )
  const lines = whole ? s.cells.length : Math.min(s.cells.length, 8 * ((tile.height ?? 2) - 1) || 3)
  const table = <Lines sheet={s} lines={lines} columns={whole ? s.columns.length : 3 * (tile.width ?? 2)} />
  if (!whole) return <div className={classes.part}>{table}</div>
  return (
    <>
      <ScrollArea.Autosize mah="60vh" type="auto" viewportProps={{ tabIndex: 0, 'aria-label': s.title }}>
        {table}
      </ScrollArea.Autosize>
      {s.told && <p className="dim">{s.told}</p>}
      <p className="dim">
        {lines < s.lines && `The first ${number(lines)} of ${number(s.lines)} lines. `}
        <Link to={address}>Open the result</Link>
      </p>
    </>
  )
}

/** Where the result of a tile is opened, laid out as the tile has it. */
export function addressOf(result: string, tile: Tile) {
  const params = write(new URLSearchParams({ view: tile.view }), tile.view, readingOf(tile.changes))
  return `/results/${result}?${params}`
}

function Lines({ sheet: s, lines, columns }: { sheet: Sheet; lines: number; columns: number }) {
  const named = s.levels.length > 0
  return (
    <table className={classes.short}>
      <thead>
        <tr>
          {named && <th>{s.levels.map(l => l.label).join(' › ')}</th>}
          {s.columns.slice(0, columns).map(c => (
            <th key={c.id + c.path} data-right={c.right || undefined}>
              {c.heads.join(' ') || c.heading}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {s.cells.slice(0, lines).map((cells, i) => (
          <tr key={i}>
            {named && <td>{s.marks[i]!.name}</td>}
            {cells.slice(0, columns).map((t, n) => (
              <td key={n} data-right={s.columns[n]!.right || undefined}>
                {t}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
