import { Button, Checkbox, Group, Popover, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, type Sheet } from '../../api/client'
import { useMayChange, useRight } from '../../signin/session'
import { offerUndo, tellThrown } from '../../trash/undo'
import { changesOf, isChanged, type Reading } from '../reading'

type Props = { report: string; sheet: Sheet; reading: Reading; onKept: (view: string) => void }

/**
 * Keeps what was changed about a view, for oneself or for everyone; a kept view can be changed or
 * deleted.
 */
export function KeepView({ report, sheet, reading, onKept }: Props) {
  const [open, { close, toggle }] = useDisclosure(false)
  const kept = sheet.kept
  const [name, setName] = useState('')
  const [everyone, setEveryone] = useState(kept?.everyone ?? false)
  const queries = useQueryClient()
  const mayShare = useRight('run')
  const mayChange = useMayChange()
  const mayWrite = useRight('write')
  const go = useNavigate()
  const done = (view: string) => {
    queries.invalidateQueries({ queryKey: ['views', report] })
    queries.removeQueries({ queryKey: ['sheet'] })
    close()
    onKept(view)
  }
  const base = kept?.view ?? sheet.view
  const now = () => {
    const own = changesOf(reading)
    if (!kept) return own
    return {
      ...kept.changes,
      ...Object.fromEntries(Object.entries(own).filter(([, v]) => v !== undefined)),
      add: [...(kept.changes.add ?? []), ...(own.add ?? [])],
    }
  }
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/reports/{report}/views', {
          params: { path: { report } },
          body: { name, view: base, everyone, changes: now() },
        }),
      ),
    onSuccess: v => done(v.id),
  })
  const change = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/reports/{report}/views/{kept}', {
          params: { path: { report, kept: kept!.id }, header: { 'If-Match': `"${kept!.revision}"` } },
          body: { name: kept!.name, view: base, everyone, changes: now() },
        }),
      ),
    onSuccess: v => {
      const was = kept!
      offerUndo({
        id: was.id,
        says: `“${was.name}” is changed.`,
        undo: () =>
          answer(
            api.PUT('/reports/{report}/views/{kept}', {
              params: { path: { report, kept: was.id }, header: { 'If-Match': `"${v.revision}"` } },
              body: { name: was.name, view: was.view, everyone: was.everyone, changes: was.changes },
            }),
          ),
      })
      done(v.id)
    },
  })
  const remove = useMutation({
    mutationFn: () =>
      answer(api.DELETE('/reports/{report}/views/{kept}', { params: { path: { report, kept: kept!.id } } })),
    onSuccess: () => (tellThrown({ kind: 'view', id: kept!.id, name: kept!.name }), done('')),
  })
  const begin = useMutation({
    mutationFn: () => answer(api.POST('/drafts', { body: { view: kept!.id } })),
    onSuccess: d => go(`/office/drafts/${d.line.id}`),
  })
  const error = keep.error ?? change.error ?? remove.error ?? begin.error
  const mine = kept && mayChange(kept.owner)
  return (
    <Popover opened={open} onDismiss={close} position="bottom-end" trapFocus shadow="md" width={300}>
      <Popover.Target>
        <Button
          size="compact-sm"
          variant={isChanged(reading) ? 'light' : 'subtle'}
          onClick={toggle}
          aria-expanded={open}
        >
          Keep view
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <form onSubmit={e => (e.preventDefault(), name.trim() && keep.mutate())}>
          {mayShare && (
            <Checkbox
              size="xs"
              mb={6}
              color="sea.7"
              label="For everyone who may open the report"
              checked={everyone}
              onChange={e => setEveryone(e.currentTarget.checked)}
            />
          )}
          {mine && (
            <Group gap={6} mb="xs">
              <Button size="compact-sm" loading={change.isPending} onClick={() => change.mutate()}>
                Change {kept.name}
              </Button>
              <Button
                size="compact-sm"
                variant="subtle"
                color="brick"
                loading={remove.isPending}
                onClick={() => remove.mutate()}
              >
                Delete it
              </Button>
            </Group>
          )}
          <TextInput
            size="xs"
            label={kept ? 'Keep as another view' : 'Name'}
            name="view-name"
            value={name}
            onChange={e => setName(e.currentTarget.value)}
          />
          {error && (
            <p className="told" role="alert">
              {error.message}
            </p>
          )}
          <Group mt="sm" justify="space-between">
            <Button size="compact-sm" type="submit" disabled={!name.trim()} loading={keep.isPending}>
              Keep
            </Button>
            {kept && mayWrite && (
              <Button
                size="compact-sm"
                variant="subtle"
                loading={begin.isPending}
                onClick={() => begin.mutate()}
              >
                Make a report of it
              </Button>
            )}
          </Group>
        </form>
      </Popover.Dropdown>
    </Popover>
  )
}
