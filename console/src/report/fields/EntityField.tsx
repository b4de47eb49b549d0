import { CloseButton, Combobox, InputBase, Loader, useCombobox } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { useState } from 'react'
import { codesIn, type FieldProps } from './Field'
import { FieldFrame } from './FieldFrame'
import { useChosen, useEntries } from './entries'

/** One entity, searched as one types over the fields that the source declares. */
export function EntityField(props: FieldProps) {
  const { report, parameter, value, onChange, fault, given } = props
  const [search, setSearch] = useState<string>()
  const [settled] = useDebouncedValue(search ?? '', 120)
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() })
  const found = useEntries(report, parameter.id, settled, 30, given, combobox.dropdownOpened)
  const chosen = useChosen(report, parameter.id, codesIn(value))
  const named = value ? chosen.data?.find((e) => e.code === value) : undefined
  const shown = named ? `${named.label}${named.label === named.code ? '' : ` (${named.code})`}` : value
  const id = `field-${parameter.id}`
  const pick = (code: string) => {
    onChange(parameter.many && code ? [...codesIn(value), code].filter((c, i, all) => all.indexOf(c) === i).join('; ') : code)
    setSearch(undefined)
    combobox.closeDropdown()
  }
  return (
    <FieldFrame {...props} id={id} hint={named?.detail ?? (parameter.many && chosen.data?.length ? chosen.data.map((e) => e.label).join(', ') : undefined)}>
      <Combobox store={combobox} onOptionSubmit={pick}>
        <Combobox.Target>
          <InputBase
            id={id} name={parameter.id} maw="26rem" error={Boolean(fault)} autoComplete="off" placeholder={parameter.required ? 'Search' : 'any'} value={search ?? shown}
            rightSectionPointerEvents="all"
            rightSection={found.isFetching ? <Loader size="xs" /> : value && <CloseButton size="sm" aria-label={`Clear ${parameter.label}`} onClick={() => pick('')} />}
            onFocus={(e) => e.currentTarget.select()}
            onClick={() => combobox.openDropdown()}
            onBlur={() => {
              // What was typed and not picked stands as typed; the service says whether it is an entry.
              if (search !== undefined) onChange(search)
              setSearch(undefined)
              combobox.closeDropdown()
            }}
            onChange={(e) => {
              setSearch(e.currentTarget.value)
              combobox.openDropdown()
              combobox.updateSelectedOptionIndex()
            }}
          />
        </Combobox.Target>
        <Combobox.Dropdown>
          <Combobox.Options mah={280} style={{ overflowY: 'auto' }}>
            {found.data?.length === 0 && <Combobox.Empty>Nothing is found</Combobox.Empty>}
            {found.data?.map((e) => (
              <Combobox.Option key={e.code} value={e.code} active={e.code === value} disabled={e.out}>
                {e.current ? e.label : <s>{e.label}</s>} {e.out && <em>ruled out</em>} {e.label !== e.code && <small>{e.code}</small>} {e.detail && <small style={{ color: 'var(--mantine-color-dimmed)' }}>{e.detail}</small>}
              </Combobox.Option>
            ))}
          </Combobox.Options>
        </Combobox.Dropdown>
      </Combobox>
    </FieldFrame>
  )
}
