import { Button, Pill, Popover } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import type { Sheet } from '../api/client'
import { FilterForm } from './FilterForm'

type Props = { sheet: Sheet; filters: string[]; onChange: (filters: string[]) => void }

/** The filters on a sheet, each with a way to remove it, and a form for one more. */
export function Filters({ sheet, filters, onChange }: Props) {
  const [open, { close, toggle }] = useDisclosure(false)
  return (
    <>
      {filters.map((f) => (
        <Pill key={f} size="md" withRemoveButton removeButtonProps={{ 'aria-label': `Remove the filter ${f}` }} onRemove={() => onChange(filters.filter((o) => o !== f))} bg="var(--chosen-ground)" c="var(--chosen)">
          {said(sheet, f)}
        </Pill>
      ))}
      <Popover opened={open} onDismiss={close} position="bottom-start" trapFocus shadow="md" width={300}>
        <Popover.Target>
          <Button size="compact-sm" variant="subtle" onClick={toggle} aria-expanded={open}>Filter</Button>
        </Popover.Target>
        <Popover.Dropdown>
          <FilterForm
            sheet={sheet}
            onAdd={(f) => {
              onChange([...filters.filter((o) => o !== f), f])
              close()
            }}
          />
        </Popover.Dropdown>
      </Popover>
    </>
  )
}

const words: Record<string, string> = { '<>': ' is not ', '>=': ' at least ', '<=': ' at most ', '~': ' holds ', '=': ' is ' }

/** A filter with its column's heading and its test in words. */
function said(sheet: Sheet, filter: string) {
  const [, id, test, value] = filter.match(/^(.*?)(<>|>=|<=|~|=)(.*)$/) ?? ['', filter, '', '']
  const heading = sheet.available.find((c) => c.id === id)?.heading ?? id
  if (value === '') return heading + (test === '=' ? ' is empty' : ' is not empty')
  return heading + (words[test] ?? test) + value
}
