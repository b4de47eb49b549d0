import { Button, TextInput } from '@mantine/core'
import { useDisclosure, useHotkeys } from '@mantine/hooks'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Criteria } from '../../api/client'
import { useRight } from '../../signin/session'
import type { Filling } from '../form/useForm'
import classes from './CriteriaPanel.module.css'
import { CriteriaRow } from './CriteriaRow'
import { SaveCriteria } from './SaveCriteria'

type Props = {
  report: string
  filling: Filling
  loaded: Criteria | undefined
  onLoad: (criteria: Criteria) => void
}

/** Lists longer than this get a search. */
const searchFrom = 8

/** Kept criteria of the report: load, keep, rename, delete with a way back, make one's usual. */
export function CriteriaPanel({ report, filling, loaded, onLoad }: Props) {
  const client = useQueryClient()
  const mayKeep = useRight('run')
  const [search, setSearch] = useState('')
  const [saving, { open, close }] = useDisclosure(false)
  useHotkeys([['mod+S', () => mayKeep && open()]], [])
  const [deleted, setDeleted] = useState<Criteria>()
  const list = useQuery({
    queryKey: ['criteria-of', report, search],
    queryFn: () =>
      answer(
        api.GET('/reports/{report}/criteria', { params: { path: { report }, query: { search, limit: 50 } } }),
      ),
  })
  const changed = () => {
    client.invalidateQueries({ queryKey: ['criteria-of', report] })
    client.invalidateQueries({ queryKey: ['criteria'] })
    client.invalidateQueries({ queryKey: ['form', report] })
  }
  const restore = useMutation({
    mutationFn: (c: Criteria) =>
      answer(api.POST('/criteria/{criteria}/restore', { params: { path: { criteria: c.id } } })),
    onSuccess: () => (setDeleted(undefined), changed()),
  })
  const all = list.data ?? []
  return (
    <section>
      <header className={classes.head}>
        <h2>Criteria</h2>
        {mayKeep && (
          <Button size="compact-xs" variant="light" onClick={open} title="Ctrl S">
            Keep these values
          </Button>
        )}
      </header>
      {(all.length >= searchFrom || search) && (
        <TextInput
          size="xs"
          mb={6}
          placeholder="Search criteria"
          aria-label="Search criteria"
          value={search}
          onChange={e => setSearch(e.currentTarget.value)}
        />
      )}
      {deleted && (
        <p className={classes.undo} role="status">
          “{deleted.name}” is deleted.{' '}
          <button type="button" className="act" onClick={() => restore.mutate(deleted)}>
            Bring it back
          </button>
          {restore.error && <span className={classes.unfit}> {restore.error.message}</span>}
        </p>
      )}
      {all.length === 0 && list.isSuccess && (
        <p className={classes.none}>{search ? 'None has such a name.' : 'None are kept yet.'}</p>
      )}
      <ul className={classes.list}>
        {all.map(c => (
          <CriteriaRow
            key={c.id}
            criteria={c}
            loaded={c.id === loaded?.id}
            onLoad={() => onLoad(c)}
            onChanged={changed}
            onDeleted={() => (setDeleted(c), changed())}
          />
        ))}
      </ul>
      <SaveCriteria
        key={String(saving)}
        open={saving}
        onClose={close}
        report={report}
        filling={filling}
        loaded={loaded}
        mine={all.filter(c => c.mine)}
        onSaved={c => (close(), changed(), onLoad(c))}
      />
    </section>
  )
}
