import { Button, FileButton, Group, Select, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useSearchParams } from 'react-router'
import { answer, api } from '../../api/client'
import { useRight } from '../../signin/session'
import classes from '../Office.module.css'
import { RenameThing } from '../../parts/RenameThing'
import { Remove } from '../../parts/Remove'
import { fromTrash, tellChanged } from '../../trash/undo'
import { moment } from '../../parts/said'
import { beginnings } from './beginnings'
import { bytesOf } from '../../parts/files/bytesOf'
import { Files } from '../../parts/files/Files'
import { Findings } from './Findings'
import { FirstRows } from './FirstRows'
import { Secrets } from './Secrets'

const yaml = {
  bodySerializer: (t: string | undefined) => t ?? '',
  headers: { 'Content-Type': 'application/yaml' },
}

/** Where rows come from: databases, with the lists of units, entities and choices that they offer. */
export function Sources() {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [opened, setOpened] = useState<string | null>(useSearchParams()[0].get('source'))
  const [changed, setChanged] = useState<string>()
  const sources = useQuery({ queryKey: ['sources'], queryFn: () => answer(api.GET('/sources')) })
  const declared = sources.data?.find(s => s.id === opened)
  const text = changed ?? declared?.text ?? ''
  const id = /^source:\s*(\S+)/m.exec(text)?.[1] ?? 'unnamed'
  const secret = /^\s*password:\s*([a-z0-9-]+)/m.exec(text)?.[1] ?? ''
  const put = (text: string) =>
    answer(api.PUT('/sources/{source}', { params: { path: { source: id } }, body: text, ...yaml }))
  const keep = useMutation({
    mutationFn: () => put(text),
    onSuccess: async () => {
      const was = sources.data?.find(s => s.id === id)
      if (was) tellChanged(was.title || id, () => put(was.text))
      setOpened(id)
      setChanged(undefined)
      await client.invalidateQueries()
    },
  })
  const test = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/sources/{source}/test', {
          params: { path: { source: id } },
          body: changed,
          ...yaml,
        }),
      ),
    onSettled: () => client.invalidateQueries({ queryKey: ['sources'] }),
  })
  const look = useMutation({
    mutationFn: (file: File) =>
      answer(api.POST('/files/look', { params: { query: { name: file.name } }, ...bytesOf(file) })),
    onSuccess: looked => show(null, looked.text),
  })
  const show = (source: string | null, text: string | undefined) => {
    setOpened(source)
    setChanged(text)
    keep.reset()
    test.reset()
  }
  const remove = async () => {
    await answer(api.DELETE('/sources/{source}', { params: { path: { source: opened! } } }))
    show(null, undefined)
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
          data={
            sources.data?.map(s => ({ value: s.id, label: (s.fault ? '▲ ' : '') + (s.title || s.id) })) ?? []
          }
          value={opened}
          onChange={s => show(s, undefined)}
        />
        {mayKeep && (
          <Select
            mt={6}
            label="Begin a new one"
            placeholder="where rows are to come from"
            data={beginnings.map(b => ({ value: b.kind, label: b.name }))}
            value={null}
            onChange={kind => show(null, beginnings.find(b => b.kind === kind)?.text)}
          />
        )}
        {mayKeep && (
          <FileButton
            onChange={f => f && look.mutate(f)}
            accept=".csv,.txt,.xlsx,.parquet,.arrow,.feather,.json,.jsonl,.ndjson"
          >
            {props => (
              <Button {...props} mt={6} size="xs" variant="subtle" loading={look.isPending}>
                Begin one from a file
              </Button>
            )}
          </FileButton>
        )}
        {look.data && changed === look.data.text && <FirstRows looked={look.data} />}
        {look.error && <p className={classes.wrong}>{look.error.message}</p>}
        <p className="dim">
          A source is only ever read. A file lies within the data directory; a server is read by an account
          that may do nothing else. Lists are read to check the declaration.
        </p>
        {declared?.fault && changed === undefined && (
          <p className={classes.wrong} data-source-fault>
            {declared.silentSince ? `Since ${moment(declared.silentSince)}: ` : ''}
            {declared.fault}
          </p>
        )}
        <Group gap="xs">
          {mayKeep && (
            <Button disabled={changed === undefined} loading={keep.isPending} onClick={() => keep.mutate()}>
              Keep
            </Button>
          )}
          {text && (
            <Button variant="light" loading={test.isPending} onClick={() => test.mutate()}>
              Test
            </Button>
          )}
          {mayKeep && opened && <RenameThing kind="source" name={opened} />}
          {mayKeep && opened && (
            <Remove
              name={opened}
              says="Its declaration is deleted and stays in the trash for 30 days; the file or server itself is not touched. A source that reports read cannot be deleted."
              onRemove={remove}
              undo={fromTrash('source', opened)}
            />
          )}
        </Group>
        {keep.isSuccess && changed === undefined && <p>It is kept.</p>}
        {(keep.error ?? test.error) && <p className={classes.wrong}>{(keep.error ?? test.error)?.message}</p>}
        {test.data && <Findings found={test.data} />}
        {declared?.kind === 'files' && changed === undefined && <Files source={declared.id} />}
        {mayKeep && <Secrets spoken={secret} />}
      </aside>
    </div>
  )
}
