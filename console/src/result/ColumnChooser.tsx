import { Button, Checkbox, Popover, Stack } from '@mantine/core'
import type { Sheet } from '../api/client'

type Props = { sheet: Sheet; onChange: (columns: string[]) => void }

/** Which columns are shown. New ones stand where the definition has them. */
export function ColumnChooser({ sheet, onChange }: Props) {
  const shown = sheet.columns.map((c) => c.id)
  const flip = (id: string) => {
    if (shown.includes(id)) return onChange(shown.filter((s) => s !== id))
    const order = sheet.available.map((a) => a.id)
    const after = shown.findIndex((s) => order.indexOf(s) > order.indexOf(id))
    onChange(after < 0 ? [...shown, id] : [...shown.slice(0, after), id, ...shown.slice(after)])
  }
  return (
    <Popover position="bottom-end" trapFocus shadow="md">
      <Popover.Target>
        <Button size="compact-sm" variant="subtle">Columns</Button>
      </Popover.Target>
      <Popover.Dropdown mah="24rem" style={{ overflowY: 'auto' }}>
        <Stack gap={6}>
          {sheet.available.map((c) => (
            <Checkbox key={c.id} size="xs" color="sea.7" label={c.heading} checked={shown.includes(c.id)} disabled={shown.length === 1 && shown[0] === c.id} onChange={() => flip(c.id)} />
          ))}
          <Button size="compact-xs" variant="subtle" onClick={() => onChange([])}>As the view was made</Button>
        </Stack>
      </Popover.Dropdown>
    </Popover>
  )
}
