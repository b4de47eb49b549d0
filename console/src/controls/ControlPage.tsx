import { Button, Group } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { answer, api, type Control, type ControlChange } from '../api/client'
import { Failure } from '../parts/Failure'
import { ControlForm } from './ControlForm'
import { EarlierVersions } from './EarlierVersions'
import classes from './ControlPage.module.css'
import { History } from './History'
import { PastRuns } from './PastRuns'
import { RunNow } from './RunNow'
import { offerUndo } from '../trash/undo'
import { useRight } from '../signin/session'
import { Follow } from './Follow'
import { Heading } from '../parts/Heading'

const fresh: ControlChange = {
  title: '',
  shared: '',
  steps: [{ report: '', values: {} }],
  outputs: ['kept'],
  rows: 0,
  seconds: 0,
  hours: '',
  empty: 'keep',
  keepDays: 0,
}

/** One run control: what it runs and how, running it, and what its runs gave. */
export function ControlPage() {
  const id = useParams().control!
  const known = id !== 'new'
  const control = useQuery({
    queryKey: ['control', id],
    queryFn: () => answer(api.GET('/controls/{control}', { params: { path: { control: id } } })),
    enabled: known,
  })
  if (control.error) return <Failure error={control.error} />
  if (known && !control.data) return null
  return <Opened key={id} present={control.data} />
}

type Props = { present: Control | undefined }

function Opened({ present }: Props) {
  const client = useQueryClient()
  const mayRun = useRight('run')
  const navigate = useNavigate()
  const [change, setChange] = useState<ControlChange>(present ?? fresh)
  // What is changed here stays what it began with, whatever becomes of it in another window.
  const [begun, setBegun] = useState<Control>()
  const control = begun ?? present
  const [id, setId] = useState(present?.id ?? '')
  const [editing, setEditing] = useState(!present)
  const [looking, setLooking] = useState(false)
  const done = () =>
    client.invalidateQueries({
      predicate: q => ['control', 'controls', 'control-runs'].includes(String(q.queryKey[0])),
    })
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/controls/{control}', {
          params: {
            path: { control: id || named(change.title) },
            header: control ? { 'If-Match': String(control.revision) } : {},
          },
          body: change,
        }),
      ),
    onSuccess: kept => {
      if (control)
        offerUndo({
          id: control.id,
          says: `“${kept.title}” is kept as it is now.`,
          undo: () =>
            answer(
              api.POST('/controls/{control}/restore', {
                params: { path: { control: control.id }, query: { revision: control.revision } },
              }),
            ),
        })
      stop()
      done()
      navigate(`/controls/${kept.id}`, { replace: !control })
    },
  })
  const start = () => {
    setBegun(present)
    if (present) setChange(present)
    setEditing(true)
  }
  const stop = () => {
    setBegun(undefined)
    setEditing(false)
  }
  const remove = useMutation({
    mutationFn: () =>
      answer(api.DELETE('/controls/{control}', { params: { path: { control: control!.id } } })),
    onSuccess: done,
  })
  const restore = useMutation({
    mutationFn: () =>
      answer(api.POST('/controls/{control}/restore', { params: { path: { control: control!.id } } })),
    onSuccess: done,
  })
  if (control?.deleted) {
    return (
      <section className={classes.page}>
        <Heading className={classes.title} title={control.title} />
        <p>
          This run control is deleted.{' '}
          <button className="act" onClick={() => restore.mutate()}>
            Bring it back
          </button>
        </p>
      </section>
    )
  }
  return (
    <section className={classes.page}>
      <header className={classes.head}>
        <Heading className={classes.title} title={control?.title ?? 'New run control'} />
        {control && !editing && (
          <Group ml="auto" gap="xs">
            {!control.mine && <Follow control={control} />}
            {mayRun && (
              <Button size="xs" variant="default" onClick={start}>
                Change
              </Button>
            )}
            {control.mine && control.revision > 1 && (
              <button className="act" onClick={() => setLooking(true)}>
                Earlier versions
              </button>
            )}
            {control.mine && (
              <button className="act" onClick={() => remove.mutate()}>
                Delete
              </button>
            )}
          </Group>
        )}
      </header>
      {control && looking && (
        <EarlierVersions
          control={control}
          onClose={() => setLooking(false)}
          onRestored={() => (setLooking(false), done())}
        />
      )}
      {editing ? (
        <ControlForm
          change={change}
          onChange={setChange}
          id={id || named(change.title)}
          onId={control ? undefined : setId}
          error={save.error}
          actions={
            <>
              <Button loading={save.isPending} onClick={() => save.mutate()}>
                {control ? 'Keep the changes' : 'Keep'}
              </Button>
              {control && (
                <Button variant="default" onClick={stop}>
                  Leave it as it was
                </Button>
              )}
            </>
          }
        />
      ) : (
        control && (
          <>
            <RunNow control={control} onRun={done} />
            <History control={control} />
            <PastRuns control={control} />
          </>
        )
      )}
    </section>
  )
}

/** An id made of a title. */
function named(title: string) {
  return title
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^[^a-z]+|-+$/g, '')
}
