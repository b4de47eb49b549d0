import { Button, Checkbox, Group, Popover } from '@mantine/core'
import type { Sheet } from '../../api/client'
import type { Change } from '../reading'
import classes from './ColumnChooser.module.css'

type Props = { sheet: Sheet; onChange: Change }

/** Which columns are shown and in which order. New ones stand where the definition has them. */
export function ColumnChooser({ sheet, onChange }: Props) {
  const shown = sheet.shown
  const set = (column: string[]) => onChange({ column })
  const flip = (id: string) => {
    if (shown.includes(id)) return set(shown.filter(s => s !== id))
    const order = sheet.available.map(a => a.id)
    const after = shown.findIndex(s => order.indexOf(s) > order.indexOf(id))
    set(after < 0 ? [...shown, id] : [...shown.slice(0, after), id, ...shown.slice(after)])
  }
  const move = (id: string, by: number) => {
    const at = shown.indexOf(id)
    const to = Math.min(Math.max(at + by, 0), shown.length - 1)
    const next = shown.filter(s => s !== id)
    set([...next.slice(0, to), id, ...next.slice(to)])
  }
  const rows = [
    ...shown.flatMap(id => sheet.available.filter(a => a.id === id)),
    ...sheet.available.filter(a => !shown.includes(a.id)),
  ]
  return (
    <Popover position="bottom-start" trapFocus shadow="md" width={320}>
      <Popover.Target>
        <Button size="compact-sm" variant="subtle">
          Columns
        </Button>
      </Popover.Target>
      <Popover.Dropdown className={classes.list}>
        {rows.map(c => (
          <div key={c.id} className={classes.row}>
            <Checkbox
              size="xs"
              color="sea.7"
              label={c.heading}
              checked={shown.includes(c.id)}
              disabled={shown.length === 1 && shown[0] === c.id}
              onChange={() => flip(c.id)}
            />
            {shown.includes(c.id) && (
              <span>
                <button type="button" aria-label={`${c.heading} to the left`} onClick={() => move(c.id, -1)}>
                  ←
                </button>
                <button type="button" aria-label={`${c.heading} to the right`} onClick={() => move(c.id, 1)}>
                  →
                </button>
              </span>
            )}
          </div>
        ))}
        <Group gap={6} mt={6}>
          <Button size="compact-xs" variant="subtle" onClick={() => onChange({ column: [] })}>
            As the view was made
          </Button>
        </Group>
      </Popover.Dropdown>
    </Popover>
  )
}
