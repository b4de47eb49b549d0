import type { Column, Sheet } from '../../api/client'
import type { LineData } from './pages'

type Props = {
  sheet: Sheet
  line: (LineData & { number: number }) | undefined
  columns: (Column | undefined)[]
  cell: number
}

/** Says the line or cell that the keyboard is at, for those who do not see it. */
export function InHand({ sheet, line, columns, cell }: Props) {
  const said = () => {
    if (!line) return ''
    const text = (i: number) => `${columns[i]?.heading ?? ''}: ${line.cells[i] || 'nothing'}`
    if (cell >= 0) return text(cell)
    const name = line.mark?.name ? `${line.mark.name}, ` : ''
    return `Line ${line.number + 1} of ${sheet.lines}: ${name}${columns
      .slice(0, 6)
      .map((_, i) => text(i))
      .join('; ')}`
  }
  return (
    <>
      <p className="unseen" role="status" aria-live="polite">
        {said()}
      </p>
      <p className="unseen" id="sheet-keys">
        Up and down move by lines, right and left by cells; Enter opens what is in hand.
      </p>
    </>
  )
}
