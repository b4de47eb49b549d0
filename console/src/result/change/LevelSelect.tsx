import { MultiSelect } from '@mantine/core'
import { useState } from 'react'

/** Something to choose: the text by which a request names it, and what it is called. */
export type Choice = { value: string; label: string }

type Props = {
  part: string
  label: string
  value: string[]
  offered: Choice[]
  onChange: (to: string[]) => void
}

/**
 * Chooses what a view is grouped by or what its cells are, in order: by name, from a list that what is
 * typed narrows, or as a formula of one's own.
 */
export function LevelSelect({ part, label, value, offered, onChange }: Props) {
  const [search, setSearch] = useState('')
  const named = (text: string) => offered.find(o => o.value === text) ?? { value: text, label: text }
  const typed = search.trim()
  const own = typed.includes('(') && !offered.some(o => o.value === typed) ? [named(typed)] : []
  const rest = offered.filter(o => !value.includes(o.value))
  return (
    <MultiSelect
      size="xs"
      mt={6}
      label={label}
      placeholder={value.length ? undefined : 'choose, or type a formula'}
      data={[...value.map(named), ...rest, ...own.filter(o => !value.includes(o.value))]}
      value={value}
      onChange={v => (onChange(v), setSearch(''))}
      searchable
      searchValue={search}
      onSearchChange={setSearch}
      selectFirstOptionOnChange
      hidePickedOptions
      nothingFoundMessage="Nothing is called so; a formula has brackets, such as band(net_kg, 10, 50)"
      filter={({ options, search: text }) => {
        const wanted = text.trim().toLocaleLowerCase()
        return (options as Choice[]).filter(o => `${o.label} ${o.value}`.toLocaleLowerCase().includes(wanted))
      }}
      comboboxProps={{ withinPortal: false }}
      maxDropdownHeight={220}
      clearable
      data-part={part}
      data-autofocus={part === 'group' || part === 'down' || undefined}
    />
  )
}
