import { Button, FileButton, Group, Select, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, Refusal, type Report } from '../api/client'
import classes from './Office.module.css'
import { Remove } from '../parts/Remove'
import { useRight } from '../signin/session'

/** Reads a definition, checks it, takes it into the catalog. */
export function Definitions() {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [text, setText] = useState('')
  const [opened, setOpened] = useState<{ id: string; version: string }>()
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const open = useMutation({
    mutationFn: async (id: string) => {
      const [report, definition] = await Promise.all([
        answer(api.GET('/reports/{report}', { params: { path: { report: id } } })),
        answer(
          api.GET('/reports/{report}/definition', { params: { path: { report: id } }, parseAs: 'text' }),
        ),
      ])
      return { report, definition: definition as string }
    },
    onSuccess: ({ report, definition }) => {
      setText(definition)
      setOpened({ id: report.id, version: report.version })
      act.reset()
    },
  })
  const act = useMutation({
    mutationFn: async (put: boolean): Promise<{ report: Report; put: boolean }> => {
      const asText = {
        body: text,
        bodySerializer: (t: string) => t,
        headers: { 'Content-Type': 'application/yaml' },
      }
      const checked = await answer(api.POST('/definitions/check', asText))
      if (!put) return { report: checked, put }
      const seen = opened?.id === checked.id ? { 'If-Match': `"${opened.version}"` } : {}
      const report = await answer(
        api.PUT('/reports/{report}/definition', {
          params: { path: { report: checked.id }, header: seen },
          ...asText,
        }),
      )
      return { report, put }
    },
    onSuccess: ({ report, put }) => {
      if (!put) return
      setOpened({ id: report.id, version: report.version })
      client.invalidateQueries()
    },
  })
  const remove = async () => {
    await answer(api.DELETE('/reports/{report}', { params: { path: { report: opened!.id } } }))
    setText('')
    setOpened(undefined)
    await client.invalidateQueries()
  }
  const refused = act.error instanceof Refusal ? act.error.problem : undefined
  return (
    <section>
      <header className={classes.head}>
        <Select
          placeholder="Open a definition"
          aria-label="Open a definition"
          searchable
          data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
          value={opened?.id ?? null}
          onChange={id => id && open.mutate(id)}
        />
        <FileButton accept=".yaml,.yml" onChange={async file => file && setText(await file.text())}>
          {props => (
            <Button variant="default" {...props}>
              Read a file
            </Button>
          )}
        </FileButton>
        {mayKeep && opened && (
          <Remove
            name={opened.id}
            says="The report leaves the catalog; results that were kept stay and can be read."
            onRemove={remove}
          />
        )}
        <Group ml="auto">
          <Button variant="light" disabled={!text} loading={act.isPending} onClick={() => act.mutate(false)}>
            Check
          </Button>
          <Button disabled={!text} loading={act.isPending} onClick={() => act.mutate(true)}>
            Take into the catalog
          </Button>
        </Group>
      </header>
      <div className={classes.columns}>
        <Textarea
          classNames={{ input: classes.text }}
          aria-label="Definition"
          spellCheck={false}
          placeholder="report: …"
          value={text}
          onChange={e => setText(e.currentTarget.value)}
          autosize
          minRows={24}
          maxRows={32}
        />
        <aside aria-live="polite" className={classes.faults}>
          {act.data && !act.isPending && (
            <p>
              <Link to={`/reports/${act.data.report.id}`}>{act.data.report.title}</Link>{' '}
              {act.data.put ? 'is in the catalog' : 'is right'}, version{' '}
              <code>{act.data.report.version.slice(0, 12)}</code>.
            </p>
          )}
          {act.data?.report.warnings && !act.isPending && (
            <ul data-warnings>
              {act.data.report.warnings.map(w => (
                <li key={w}>{w}</li>
              ))}
            </ul>
          )}
          {refused && (
            <>
              <h2>{refused.title}</h2>
              {refused.fields.length === 0 && <p>{refused.detail}</p>}
              <ol>
                {refused.fields.map((f, i) => (
                  <li key={i}>
                    {f.line !== undefined && (
                      <b>
                        line {f.line}, column {f.column}:{' '}
                      </b>
                    )}
                    {f.message}
                  </li>
                ))}
              </ol>
            </>
          )}
        </aside>
      </div>
    </section>
  )
}
