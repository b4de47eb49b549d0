import { CloseButton, Combobox, Group, InputBase, Loader, Pill, useCombobox } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { useState } from 'react'
import { codesIn, type FieldProps } from './props'
import { FieldFrame } from './FieldFrame'
import { useChosen, useEntries } from './entries'
import { tiesOf } from './ties'

/**
 * One entity or several, searched as one types over the fields that the source declares. What was
 * typed and not picked stands as typed; the service says whether it is an entry.
 */
export function EntityField(props: FieldProps) {
  const { report, parameter, value, onChange, fault, given } = props
  const [search, setSearch] = useState<string>()
  const [settled] = useDebouncedValue(search ?? '', 120)
  const combobox = useCombobox({ onDropdownClose: () => combobox.resetSelectedOption() })
  const found = useEntries(report, parameter.id, settled, 30, given, combobox.dropdownOpened)
  // Entries of an earlier search are not offered: who types fast would take one of them.
  const offered = (search ?? '') === settled && !found.isPlaceholderData ? found.data : undefined
  const typed = codesIn(value)
  const chosen = useChosen(report, parameter.id, typed)
  const label = (code: string) => {
    const e = chosen.data?.find(c => c.code === code)
    return e && e.label !== e.code ? `${e.label} (${e.code})` : code
  }
  const id = `field-${parameter.id}`
  const take = (text: string) => {
    onChange(parameter.many && text ? [...new Set([...typed, ...codesIn(text)])].join('; ') : text)
    setSearch(undefined)
    combobox.closeDropdown()
  }
  const without = (code: string) => onChange(typed.filter(c => c !== code).join('; '))
  const detail = parameter.many ? undefined : chosen.data?.find(e => e.code === value)?.detail
  return (
    <FieldFrame
      {...props}
      id={id}
      hint={detail || (typed.length === 0 && parameter.many ? parameter.all || undefined : undefined)}
    >
      {parameter.many && typed.length > 0 && (
        <Group gap={4} mb={4}>
          {typed.map(code => (
            <Pill
              key={code}
              withRemoveButton
              onRemove={() => without(code)}
              removeButtonProps={{ 'aria-label': `Leave out ${label(code)}` }}
            >
              {label(code)}
            </Pill>
          ))}
        </Group>
      )}
      <Combobox store={combobox} onOptionSubmit={take}>
        <Combobox.Target>
          <InputBase
            {...tiesOf(props)}
            id={id}
            name={parameter.id}
            maw="26rem"
            error={Boolean(fault)}
            autoComplete="off"
            placeholder={parameter.required ? 'Search' : parameter.many ? 'search and add' : 'any'}
            value={search ?? (parameter.many ? '' : value && label(value))}
            rightSectionPointerEvents="all"
            rightSection={
              found.isFetching ? (
                <Loader size="xs" />
              ) : (
                value &&
                !parameter.many && (
                  <CloseButton
                    size="sm"
                    tabIndex={-1}
                    aria-label={`Clear ${parameter.label}`}
                    onClick={() => take('')}
                  />
                )
              )
            }
            onFocus={e => e.currentTarget.select()}
            onClick={() => combobox.openDropdown()}
            onKeyDown={e =>
              e.key === 'Backspace' &&
              parameter.many &&
              !e.currentTarget.value &&
              typed.length > 0 &&
              without(typed[typed.length - 1])
            }
            onBlur={() => {
              if (search !== undefined && (search || !parameter.many)) take(search)
              setSearch(undefined)
              combobox.closeDropdown()
            }}
            onChange={e => {
              setSearch(e.currentTarget.value)
              combobox.openDropdown()
              combobox.updateSelectedOptionIndex()
            }}
          />
        </Combobox.Target>
        <Combobox.Dropdown>
          <Combobox.Options mah={280} style={{ overflowY: 'auto' }}>
            {offered?.length === 0 && <Combobox.Empty>Nothing is found</Combobox.Empty>}
            {offered?.map(e => (
              <Combobox.Option key={e.code} value={e.code} active={typed.includes(e.code)} disabled={e.out}>
                {e.current ? e.label : <s>{e.label}</s>} {e.out && <em>ruled out</em>}{' '}
                {e.label !== e.code && <small>{e.code}</small>}{' '}
                {e.detail && <small className="dim">{e.detail}</small>}
              </Combobox.Option>
            ))}
          </Combobox.Options>
        </Combobox.Dropdown>
      </Combobox>
    </FieldFrame>
  )
}
