import { Button, Select, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { useRight } from '../signin/session'
import classes from './Office.module.css'
import { RenameThing } from '../parts/RenameThing'
import { Remove } from '../parts/Remove'

/** Where rows come from: databases, with the lists of units, entities and choices that they offer. */
export function Sources() {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [opened, setOpened] = useState<string | null>(null)
  const [changed, setChanged] = useState<string>()
  const sources = useQuery({ queryKey: ['sources'], queryFn: () => answer(api.GET('/sources')) })
  const text = changed ?? sources.data?.find(s => s.id === opened)?.text ?? ''
  const id = /^source:\s*(\S+)/m.exec(text)?.[1] ?? 'unnamed'
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/sources/{source}', {
          params: { path: { source: id } },
          body: text,
          bodySerializer: (t: string) => t,
          headers: { 'Content-Type': 'application/yaml' },
        }),
      ),
    onSuccess: () => (setOpened(id), setChanged(undefined), client.invalidateQueries()),
  })
  const remove = async () => {
    await answer(api.DELETE('/sources/{source}', { params: { path: { source: opened! } } }))
    setOpened(null)
    await client.invalidateQueries()
  }
  return (
    <div className={classes.columns}>
      <Textarea
        classNames={{ input: classes.text }}
        aria-label="Declaration of a source"
        placeholder="source: …"
        spellCheck={false}
        value={text}
        readOnly={!mayKeep}
        onChange={e => setChanged(e.currentTarget.value)}
        autosize
        minRows={20}
        maxRows={32}
      />
      <aside className={classes.faults} aria-live="polite">
        <Select
          label="Open a declaration"
          data={sources.data?.map(s => ({ value: s.id, label: s.title || s.id })) ?? []}
          value={opened}
          onChange={s => (setOpened(s), setChanged(undefined), keep.reset())}
        />
        <p className="dim">
          A source is only ever read. Its file lies within the data directory; its lists are read to check it.
        </p>
        {mayKeep && (
          <Button disabled={changed === undefined} loading={keep.isPending} onClick={() => keep.mutate()}>
            Keep
          </Button>
        )}
        {mayKeep && opened && <RenameThing kind="source" name={opened} />}
        {mayKeep && opened && (
          <Remove
            name={opened}
            says="Its declaration is deleted; the file itself is not touched. A source that reports read cannot be deleted."
            onRemove={remove}
          />
        )}
        {keep.isSuccess && changed === undefined && <p>It is kept.</p>}
        {keep.error && <p className={classes.wrong}>{keep.error.message}</p>}
      </aside>
    </div>
  )
}
