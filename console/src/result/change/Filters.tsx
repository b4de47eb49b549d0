import { Button, Popover, Select } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useState } from 'react'
import type { Sheet } from '../../api/client'
import type { Change, Reading } from '../reading'
import { FilterBox } from './ColumnFilter'

type Props = { result: string; sheet: Sheet; reading: Reading; onChange: Change }

/** A box for one more filter on a sheet. */
export function Filters({ result, sheet, reading, onChange }: Props) {
  const [open, { close, toggle }] = useDisclosure(false)
  const [column, setColumn] = useState<string>()
  const columns = sheet.available.filter(c => c.rows)
  const chosen = columns.find(c => c.id === column) ?? columns[0]
  return (
    <Popover opened={open} onDismiss={close} position="bottom-start" trapFocus shadow="md" width={320}>
      <Popover.Target>
        <Button size="compact-sm" variant="subtle" onClick={toggle} aria-expanded={open}>
          Filter
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <Select
          size="xs"
          label="Column"
          searchable
          data={columns.map(c => ({ value: c.id, label: c.heading }))}
          value={chosen?.id}
          onChange={c => c && setColumn(c)}
          comboboxProps={{ withinPortal: false }}
          allowDeselect={false}
          mb={6}
        />
        {open && chosen && (
          <FilterBox
            key={chosen.id}
            result={result}
            sheet={sheet}
            reading={reading}
            column={chosen}
            onChange={onChange}
            onDone={close}
          />
        )}
      </Popover.Dropdown>
    </Popover>
  )
}
