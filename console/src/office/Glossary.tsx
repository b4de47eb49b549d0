import { Button, Group as Row, Modal, TagsInput, Textarea, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Schemas } from '../api/client'
import { Remove } from '../parts/Remove'
import { count } from '../parts/said'
import { idOf } from './idOf'
import { useRight } from '../signin/session'
import { offerUndo } from '../trash/undo'
import classes from './Office.module.css'
import { Rows } from '../parts/Rows'

type Term = Schemas['Term']

/** What the organisation's words mean, and the columns that they are said of. */
export function Glossary() {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [search, setSearch] = useState('')
  const [edited, setEdited] = useState<Term | 'new'>()
  const terms = useQuery({
    queryKey: ['glossary', search],
    queryFn: () => answer(api.GET('/glossary', { params: { query: { search } } })),
    placeholderData: old => old,
  })
  const remove = async (term: string) => {
    await answer(api.DELETE('/glossary/{term}', { params: { path: { term } } }))
    await client.invalidateQueries({ queryKey: ['glossary'] })
  }
  return (
    <>
      <Row mb="sm" align="end">
        <TextInput
          size="xs"
          label="Find a word"
          value={search}
          onChange={e => setSearch(e.currentTarget.value)}
        />
        <Button size="xs" onClick={() => setEdited('new')}>
          New term
        </Button>
      </Row>
      <Rows heads={['Term', 'Meaning', 'Columns', '']}>
        {terms.data?.map(t => (
          <tr key={t.id}>
            <td>
              {t.name}
              <div className="dim">{[t.id, ...t.also].join(', ')}</div>
            </td>
            <td>
              {t.meaning}
              {t.owner && <div className="dim">{t.owner} answers for it.</div>}
            </td>
            <td>
              {t.columns.length === 0
                ? 'none'
                : [...new Set(t.columns.map(c => c.report))].map((r, i) => (
                    <span key={r}>
                      {i > 0 && ', '}
                      <Link to={`/reports/${r}`}>{r}</Link>
                    </span>
                  ))}
            </td>
            <td className="acts">
              <button className="act" onClick={() => setEdited(t)}>
                Change
              </button>
              {mayKeep && (
                <Remove
                  name={t.name}
                  says={
                    t.columns.length > 0
                      ? `${count(t.columns.length, 'column points', 'columns point')} to it; it can be deleted when none does.`
                      : 'No column points to it.'
                  }
                  onRemove={() => remove(t.id)}
                  undo={() => putBack(t)}
                />
              )}
            </td>
          </tr>
        ))}
      </Rows>
      {terms.data?.length === 0 && <p className="dim">No term has that in it.</p>}
      {edited && (
        <TermForm term={edited === 'new' ? undefined : edited} onDone={() => setEdited(undefined)} />
      )}
    </>
  )
}

/** Keeps a term as it was, over what it became, if it is there still. */
async function putBack({ id, name, also, meaning, owner }: Term) {
  const now = (await answer(api.GET('/glossary', { params: { query: {} } }))).find(t => t.id === id)
  return answer(
    api.PUT('/glossary/{term}', {
      params: { path: { term: id }, header: now ? { 'If-Match': String(now.revision) } : {} },
      body: { name, also, meaning, owner },
    }),
  )
}

type Props = { term: Term | undefined; onDone: () => void }

function TermForm({ term, onDone }: Props) {
  const client = useQueryClient()
  const [id, setId] = useState(term?.id ?? '')
  const [name, setName] = useState(term?.name ?? '')
  const [also, setAlso] = useState(term?.also ?? [])
  const [meaning, setMeaning] = useState(term?.meaning ?? '')
  const [owner, setOwner] = useState(term?.owner ?? '')
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/glossary/{term}', {
          params: { path: { term: id }, header: term ? { 'If-Match': String(term.revision) } : {} },
          body: { name, also, meaning, ...(owner ? { owner } : {}) },
        }),
      ),
    onSuccess: () => {
      if (term) offerUndo({ id: term.id, says: `“${term.name}” is changed.`, undo: () => putBack(term) })
      void client.invalidateQueries({ queryKey: ['glossary'] })
      onDone()
    },
  })
  return (
    <Modal opened onClose={onDone} title={term ? term.name : 'New term'}>
      <form onSubmit={e => (e.preventDefault(), save.mutate())}>
        <TextInput
          label="Term"
          value={name}
          data-autofocus
          required
          onChange={e => {
            setName(e.currentTarget.value)
            if (!term) setId(idOf(e.currentTarget.value))
          }}
        />
        {!term && (
          <TextInput
            mt="sm"
            label="Id"
            description="what columns point to it by: means: ID"
            value={id}
            required
            onChange={e => setId(e.currentTarget.value)}
          />
        )}
        <TagsInput
          mt="sm"
          label="Also"
          description="other words for the same; Enter after each"
          value={also}
          onChange={setAlso}
        />
        <Textarea
          mt="sm"
          label="Meaning"
          required
          autosize
          minRows={3}
          value={meaning}
          onChange={e => setMeaning(e.currentTarget.value)}
        />
        <TextInput
          mt="sm"
          label="Who answers for it"
          description="the name of an account"
          value={owner}
          onChange={e => setOwner(e.currentTarget.value)}
        />
        {save.error && <p className={classes.wrong}>{save.error.message}</p>}
        <Row mt="md" justify="flex-end">
          <Button type="submit" loading={save.isPending}>
            Keep
          </Button>
        </Row>
      </form>
    </Modal>
  )
}
