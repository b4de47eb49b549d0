import { Button, Pill, PillsInput, Popover, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useState } from 'react'
import type { Entry } from '../../api/client'
import { codesIn, type FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { UnitTree } from './UnitTree'
import { useEntries } from './entries'
import { tiesOf } from './ties'

/** Units of the organisation, picked from its tree; each stands for itself and everything below. */
export function UnitField(props: FieldProps) {
  const { report, parameter, value, onChange, fault, given } = props
  const [open, { open: show, close, toggle }] = useDisclosure(false)
  const [search, setSearch] = useState('')
  const units = useEntries(report, parameter.id, '', 1000, given, !props.list)
  const entries = units.data ?? props.list ?? []
  const chosen = codesIn(value).map(typed => known(entries, typed))
  const set = (codes: string[]) => onChange(codes.join('; '))
  const flip = (code: string) => {
    if (chosen.includes(code)) return set(chosen.filter(c => c !== code))
    set(parameter.many ? [...chosen, code] : [code])
  }
  const label = (code: string) => entries.find(e => e.code === code)?.label ?? code
  const below = chosen.some(code => entries.some(e => e.parent === code))
  return (
    <FieldFrame
      {...props}
      hint={chosen.length === 0 ? parameter.all || undefined : below ? 'with everything below' : undefined}
    >
      <Popover
        withRoles={false}
        opened={open}
        onDismiss={close}
        position="bottom-start"
        shadow="md"
        trapFocus
        returnFocus
      >
        <Popover.Target>
          <PillsInput
            error={Boolean(fault)}
            maw="34rem"
            onClick={show}
            rightSection={
              <Button
                size="compact-xs"
                variant="subtle"
                tabIndex={-1}
                aria-label={`Pick ${parameter.label}`}
                aria-haspopup="dialog"
                aria-expanded={open}
                onClick={e => (e.stopPropagation(), toggle())}
              >
                ▾
              </Button>
            }
          >
            <Pill.Group>
              {chosen.map(code => (
                <Pill
                  key={code}
                  withRemoveButton
                  onRemove={() => flip(code)}
                  removeButtonProps={{ 'aria-label': `Leave out ${label(code)}` }}
                >
                  {label(code)}
                </Pill>
              ))}
              <PillsInput.Field
                type="auto"
                readOnly
                placeholder={chosen.length ? '' : 'all units'}
                {...tiesOf(props)}
                aria-label={parameter.label}
                onKeyDown={e => [' ', 'ArrowDown'].includes(e.key) && !open && (e.preventDefault(), show())}
              />
            </Pill.Group>
          </PillsInput>
        </Popover.Target>
        <Popover.Dropdown w="24rem" role="dialog" aria-label={`Pick ${parameter.label}`}>
          <TextInput
            size="sm"
            placeholder="Search units"
            aria-label="Search units"
            value={search}
            onChange={e => setSearch(e.currentTarget.value)}
            data-autofocus
            onKeyDown={e =>
              e.key === 'ArrowDown' &&
              (e.preventDefault(),
              e.currentTarget.parentElement?.parentElement?.parentElement
                ?.querySelector<HTMLElement>('[role=treeitem]')
                ?.focus())
            }
          />
          <UnitTree
            entries={entries}
            chosen={chosen}
            search={search}
            onFlip={flip}
            onAll={() =>
              parameter.many &&
              set(
                chosen.length
                  ? []
                  : entries.filter(e => !entries.some(p => p.code === e.parent)).map(e => e.code),
              )
            }
            onDone={close}
          />
        </Popover.Dropdown>
      </Popover>
    </FieldFrame>
  )
}

/** The code of what was typed: a code or a label. */
function known(entries: Entry[], typed: string) {
  const same = (t: string) => t.localeCompare(typed, undefined, { sensitivity: 'base' }) === 0
  return (entries.find(e => same(e.code)) ?? entries.find(e => same(e.label)))?.code ?? typed
}
