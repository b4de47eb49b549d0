import { Button, Group, Popover, ScrollArea, Text, TextInput } from '@mantine/core'
import { useDebouncedValue, useDisclosure } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Sheet } from '../../api/client'
import { query, type Change, type Reading } from '../reading'
import classes from './AddColumn.module.css'

type Props = { result: string; sheet: Sheet; reading: Reading; onChange: Change }

/** A column of one's own, computed by a formula, with help while it is typed. */
export function AddColumn({ result, sheet, reading, onChange }: Props) {
  const [open, { close, toggle }] = useDisclosure(false)
  const [name, setName] = useState('')
  const [formula, setFormula] = useState('')
  const [typed] = useDebouncedValue(formula, 150)
  const view = sheet.kept?.id ?? sheet.view
  const functions = useQuery({
    queryKey: ['functions'],
    queryFn: () => answer(api.GET('/formulas')),
    staleTime: Infinity,
    enabled: open,
  })
  const check = useQuery({
    queryKey: ['formula', result, view, reading.add, typed],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/formula', {
          params: { path: { result, view }, query: { ...query(reading), text: typed } },
        }),
      ),
    staleTime: Infinity,
    enabled: open && typed.trim() !== '',
  })
  const word = formula.match(/[a-z_]+$/i)?.[0]?.toLowerCase() ?? ''
  const columns = sheet.available.filter(c => c.rows && !c.id.startsWith('own_'))
  const insert = (text: string) => setFormula(f => f.slice(0, f.length - word.length) + text)
  const wrong = check.data && !check.data.ok ? check.data : undefined
  const ready =
    name.trim() !== '' && !name.includes('=') && formula.trim() !== '' && check.data?.ok && typed === formula
  const add = () => {
    if (!ready) return
    onChange({ add: [...reading.add, `${name.trim()} = ${formula.trim()}`] })
    setName('')
    setFormula('')
    close()
  }
  return (
    <Popover
      opened={open}
      onDismiss={close}
      position="bottom-start"
      trapFocus
      shadow="md"
      width="min(420px, calc(100vw - 1.5rem))"
    >
      <Popover.Target>
        <Button size="compact-sm" variant="subtle" onClick={toggle} aria-expanded={open}>
          Add column
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <form onSubmit={e => (e.preventDefault(), add())}>
          <TextInput
            size="xs"
            label="Name"
            name="column-name"
            value={name}
            onChange={e => setName(e.currentTarget.value)}
          />
          <TextInput
            size="xs"
            mt={6}
            label="Formula"
            name="formula"
            placeholder="value / net_kg"
            value={formula}
            onChange={e => setFormula(e.currentTarget.value)}
            classNames={{ input: classes.formula }}
            autoComplete="off"
          />
          {wrong ? (
            <div className={classes.wrong} role="alert">
              <code>
                {typed.slice(0, wrong.at)}
                <mark>{typed.slice(wrong.at, (wrong.at ?? 0) + 1) || ' '}</mark>
                {typed.slice((wrong.at ?? 0) + 1)}
              </code>
              <p>{wrong.message}</p>
            </div>
          ) : (
            <Text size="xs" c="dimmed" mt={4}>
              {check.data?.ok
                ? `Gives ${check.data.kind}, ${check.data.groups ? 'of each group' : 'in every row'}.`
                : 'Columns, + − × ÷ as + - * /, case when … then … end, and the functions below.'}
            </Text>
          )}
          <ScrollArea.Autosize mah={190} mt={6}>
            {columns
              .filter(c => word && c.id.startsWith(word))
              .map(c => (
                <button key={c.id} type="button" className={classes.help} onClick={() => insert(c.id)}>
                  <code>{c.id}</code> {c.heading}
                </button>
              ))}
            {functions.data
              ?.filter(f => !word || f.name.startsWith(word))
              .map(f => (
                <button
                  key={f.name}
                  type="button"
                  className={classes.help}
                  onClick={() => insert(`${f.name}(`)}
                >
                  <code>{f.usage}</code> {f.says} <span className="dim">{f.example}</span>
                </button>
              ))}
          </ScrollArea.Autosize>
          {reading.add.length > 0 && (
            <div className={classes.own}>
              {reading.add.map(a => (
                <div key={a}>
                  <code>{a}</code>{' '}
                  <button
                    type="button"
                    className="act"
                    onClick={() => onChange({ add: reading.add.filter(o => o !== a) })}
                  >
                    remove
                  </button>
                </div>
              ))}
            </div>
          )}
          <Group mt="sm">
            <Button size="compact-sm" type="submit" disabled={!ready}>
              Add
            </Button>
          </Group>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
