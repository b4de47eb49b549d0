import { Button, Group, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Result, type Schemas } from '../../api/client'
import { moment } from '../../parts/said'
import { useMayChange, useRight } from '../../signin/session'
import side from '../side/Side.module.css'
import classes from './KeepingSide.module.css'
import { Note } from './Note'
import { WriteNote } from './WriteNote'

type Props = { result: Result; about?: Schemas['NoteAbout']; onAbout: (about: undefined) => void }

/** What was said and done of a result: sign-off, hold, and the notes on it. */
export function KeepingSide({ result, about, onAbout }: Props) {
  const client = useQueryClient()
  const mayRun = useRight('run')
  const mayChange = useMayChange()
  const [says, setSays] = useState('')
  const [answered, setAnswered] = useState<number>()
  const path = { result: result.id }
  const kept = useQuery({
    queryKey: ['keeping', result.id],
    queryFn: () => answer(api.GET('/results/{result}/keeping', { params: { path } })),
  })
  const step = useMutation({
    mutationFn: (what: Schemas['KeepingStep']['do']) =>
      answer(api.POST('/results/{result}/keeping', { params: { path }, body: { do: what, says } })),
    onSuccess: async () => {
      setSays('')
      await client.invalidateQueries()
    },
  })
  const k = kept.data
  const threads = k?.notes.filter(n => !n.answers) ?? []
  return (
    <aside className={side.side} data-keeping>
      <h2>Sign-off</h2>
      {k && (
        <p className={k.signed ? side.good : undefined}>
          {k.signed
            ? 'It is signed off, and held.'
            : k.signs.length > 0
              ? 'It is signed, and waits for the second step by another person.'
              : 'Nobody signed it.'}
          {k.held && ' Somebody holds it: it is not deleted.'}
        </p>
      )}
      <ul className={classes.acts}>
        {k?.acts.map((a, i) => (
          <li key={i}>
            <b>{a.what}</b> by {a.person}, {moment(a.at)}
            {a.says && <>: {a.says}</>}
          </li>
        ))}
      </ul>
      {k && (
        <>
          <TextInput
            size="xs"
            label="What was checked, or why"
            value={says}
            onChange={e => setSays(e.currentTarget.value)}
          />
          <Group gap="xs" mt="xs" mb="md">
            {!k.signed && (
              <Button size="xs" loading={step.isPending} onClick={() => step.mutate('sign')}>
                Sign off
              </Button>
            )}
            {k.signs.length > 0 && (
              <Button
                size="xs"
                variant="default"
                disabled={!says.trim()}
                loading={step.isPending}
                onClick={() => step.mutate('withdraw')}
              >
                Withdraw the sign-off
              </Button>
            )}
            {mayRun && mayChange(result.askedBy) && (
              <Button
                size="xs"
                variant="default"
                loading={step.isPending}
                onClick={() => step.mutate(k.held ? 'release' : 'hold')}
              >
                {k.held ? 'Release' : 'Hold'}
              </Button>
            )}
          </Group>
        </>
      )}
      {step.error && (
        <p className={side.bad} role="alert">
          {step.error.message}
        </p>
      )}
      <h2>Notes</h2>
      {threads.map(n => (
        <div key={n.number} className={classes.thread} data-note-thread={n.number}>
          <Note note={n} />
          {k!.notes
            .filter(a => a.answers === n.number)
            .map(a => (
              <Note key={a.number} note={a} />
            ))}
          {answered === n.number ? (
            <WriteNote result={result.id} answers={n.number} onDone={() => setAnswered(undefined)} />
          ) : (
            <button type="button" className="act" onClick={() => setAnswered(n.number)}>
              Answer
            </button>
          )}
        </div>
      ))}
      {k && threads.length === 0 && <p className="dim">Nobody wrote a note.</p>}
      <WriteNote key={about?.says} result={result.id} about={about} onDone={() => onAbout(undefined)} />
      {kept.error && <p className={side.bad}>{kept.error.message}</p>}
    </aside>
  )
}
