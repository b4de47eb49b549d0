import { Button, Group, Modal, MultiSelect, SegmentedControl, Select, TextInput } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import classes from '../Office.module.css'

type Props = { opened: boolean; onClose: () => void; onBegun: (draft: string) => void }
type From = 'table' | 'report' | 'nothing'

/** Begins a definition: from columns of a table, from another report, or from nothing. */
export function NewReport({ opened, onClose, onBegun }: Props) {
  const [title, setTitle] = useState('')
  const [category, setCategory] = useState('')
  const [from, setFrom] = useState<From>('table')
  const [source, setSource] = useState<string | null>(null)
  const [table, setTable] = useState<string | null>(null)
  const [columns, setColumns] = useState<string[]>([])
  const [copy, setCopy] = useState<string | null>(null)
  const sources = useQuery({
    queryKey: ['sources'],
    queryFn: () => answer(api.GET('/sources')),
    enabled: opened,
  })
  const catalog = useQuery({
    queryKey: ['catalog', '', ''],
    queryFn: () => answer(api.GET('/catalog')),
    enabled: opened,
  })
  const chosen = source ?? sources.data?.[0]?.id ?? null
  const tables = useTables(chosen ?? '', opened)
  const looked = tables.data?.find(t => t.name === table)
  const begin = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/drafts', {
          body: {
            title,
            category: category || undefined,
            source: from === 'report' ? undefined : (chosen ?? undefined),
            table: from === 'table' ? (table ?? undefined) : undefined,
            columns: from === 'table' && columns.length > 0 ? columns : undefined,
            copy: from === 'report' ? (copy ?? undefined) : undefined,
            report: from === 'report' ? idOf(title) : undefined,
          },
        }),
      ),
    onSuccess: d => onBegun(d.line.id),
  })
  const ready = title.trim() !== '' && (from !== 'table' || table) && (from !== 'report' || copy)
  return (
    <Modal opened={opened} onClose={onClose} title="New report" size="lg">
      {/* Not a form: Enter within a list chooses an entry, and must not begin the draft. */}
      <div>
        <TextInput
          label="Title"
          value={title}
          onChange={e => setTitle(e.currentTarget.value)}
          data-autofocus
          required
        />
        <Select
          mt="sm"
          label="Category"
          placeholder="where it stands in the catalog"
          searchable
          clearable
          data={catalog.data?.categories.map(c => c.name) ?? []}
          value={category || null}
          onChange={c => setCategory(c ?? '')}
        />
        <SegmentedControl
          mt="md"
          fullWidth
          aria-label="Begin from"
          value={from}
          onChange={f => setFrom(f as From)}
          data={[
            { value: 'table', label: 'From a table' },
            { value: 'report', label: 'From a report' },
            { value: 'nothing', label: 'From nothing' },
          ]}
        />
        {from !== 'report' && (
          <Select
            mt="sm"
            label="Source"
            data={sources.data?.map(s => ({ value: s.id, label: s.title || s.id })) ?? []}
            value={chosen}
            onChange={s => (setSource(s), setTable(null), setColumns([]))}
          />
        )}
        {from === 'table' && (
          <>
            <Select
              mt="sm"
              label="Table"
              searchable
              data={tables.data?.map(t => t.name) ?? []}
              value={table}
              onChange={t => (setTable(t), setColumns([]))}
              description={
                looked && `${looked.columns.length} columns; read by ${looked.usedBy.length} reports`
              }
              error={tables.error?.message}
            />
            <MultiSelect
              mt="sm"
              label="Columns"
              placeholder={columns.length === 0 ? 'all of them' : undefined}
              searchable
              disabled={!looked}
              data={looked?.columns.map(c => c.name) ?? []}
              value={columns}
              onChange={setColumns}
            />
          </>
        )}
        {from === 'report' && (
          <Select
            mt="sm"
            label="Report"
            searchable
            data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
            value={copy}
            onChange={setCopy}
          />
        )}
        {begin.error && (
          <p className={classes.wrong} role="alert">
            {begin.error.message}
          </p>
        )}
        <Group justify="flex-end" mt="md">
          <Button disabled={!ready} loading={begin.isPending} onClick={() => begin.mutate()}>
            Begin
          </Button>
        </Group>
      </div>
    </Modal>
  )
}

/** The tables of a source. */
export function useTables(source: string, enabled = true) {
  return useQuery({
    queryKey: ['tables', source],
    queryFn: () => answer(api.GET('/sources/{source}/tables', { params: { path: { source } } })),
    enabled: enabled && source !== '',
    staleTime: 60_000,
  })
}

/** A copy needs an id that tells it from what it is copied from. */
const idOf = (title: string) =>
  title
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-$/g, '') || 'new-report'
