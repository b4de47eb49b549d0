import { Button, Pill, Popover, Select } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useState } from 'react'
import type { Sheet } from '../../api/client'
import type { Change, Reading } from '../reading'
import { FilterBox } from './ColumnFilter'

type Props = { result: string; sheet: Sheet; reading: Reading; onChange: Change }

/** The filters on a sheet, each with a way to remove it, and a box for one more. */
export function Filters({ result, sheet, reading, onChange }: Props) {
  const [open, { close, toggle }] = useDisclosure(false)
  const [column, setColumn] = useState<string>()
  const columns = sheet.available.filter(c => c.rows)
  const chosen = columns.find(c => c.id === column) ?? columns[0]
  return (
    <>
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
      {sheet.filters.map(f => (
        <Pill
          key={f.text}
          size="md"
          withRemoveButton
          removeButtonProps={{ 'aria-label': `Remove the filter ${f.text}` }}
          onRemove={() => onChange({ filter: sheet.filters.filter(o => o.text !== f.text).map(o => o.text) })}
          bg="var(--chosen-ground)"
          c="var(--chosen)"
        >
          {said(f)}
        </Pill>
      ))}
    </>
  )
}

const words: Record<string, string> = {
  '<>': ' is not ',
  '>=': ' at least ',
  '<=': ' at most ',
  '>': ' more than ',
  '<': ' less than ',
  '~': ' holds ',
  '=': ' is ',
}

/** A filter in words. */
function said(f: Sheet['filters'][number]) {
  if (f.value === '') return f.label + (f.test === '=' ? ' is empty' : ' is not empty')
  return f.label + (words[f.test] ?? f.test) + f.value.replaceAll(';', ', ')
}
