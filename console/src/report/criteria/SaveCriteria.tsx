import { Button, Group, Modal, Select, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Criteria } from '../../api/client'
import { offerUndo } from '../../trash/undo'
import { useSession } from '../../signin/session'
import type { Filling } from '../form/useForm'
import { Changes } from './Changes'

type Props = {
  open: boolean
  onClose: () => void
  report: string
  filling: Filling
  loaded: Criteria | undefined
  mine: Criteria[]
  onSaved: (criteria: Criteria) => void
}

/** Keeps what was typed under a name. A name in use is overwritten only after what changes was shown. */
export function SaveCriteria({ open, onClose, report, filling, loaded, mine, onSaved }: Props) {
  const { who } = useSession()
  const [name, setName] = useState(loaded?.mine ? loaded.name : '')
  const [shared, setShared] = useState(loaded?.mine ? loaded.shared : '')
  const present = mine.find(c => c.name.toLowerCase() === name.trim().toLowerCase())
  const save = useMutation({
    mutationFn: () => {
      const body = { name, shared, values: filling.values }
      return answer(
        present
          ? api.PUT('/criteria/{criteria}', {
              params: { path: { criteria: present.id }, header: { 'If-Match': String(present.revision) } },
              body,
            })
          : api.POST('/reports/{report}/criteria', { params: { path: { report } }, body }),
      )
    },
    onSuccess: kept => {
      if (present)
        offerUndo({
          id: present.id,
          says: `“${present.name}” is overwritten.`,
          undo: () =>
            answer(
              api.POST('/criteria/{criteria}/restore', {
                params: { path: { criteria: present.id }, query: { revision: present.revision } },
              }),
            ),
        })
      onSaved(kept)
    },
  })
  const groups = [
    { value: '', label: 'nobody: only mine' },
    ...(who?.groups ?? []).map(g => ({ value: g, label: `the group ${g}` })),
    { value: 'everyone', label: 'everyone' },
  ]
  return (
    <Modal opened={open} onClose={onClose} title="Keep these values" size="lg">
      <form onSubmit={e => (e.preventDefault(), save.mutate())}>
        <TextInput
          name="criteria-name"
          label="Name"
          value={name}
          onChange={e => setName(e.currentTarget.value)}
          error={save.error?.message}
          data-autofocus
          required
        />
        <Select
          mt="sm"
          label="Shared with"
          data={groups}
          value={shared}
          onChange={v => setShared(v ?? '')}
          allowDeselect={false}
        />
        <p className="dim">What was typed is kept: last month stays last month.</p>
        {present && filling.report && (
          <Changes
            name={present.name}
            was={present.values}
            will={filling.values}
            parameters={filling.report.parameters}
          />
        )}
        <Group justify="flex-end">
          <Button variant="default" onClick={onClose}>
            Leave it
          </Button>
          <Button type="submit" loading={save.isPending}>
            {present ? `Overwrite “${present.name}”` : 'Keep'}
          </Button>
        </Group>
      </form>
    </Modal>
  )
}
