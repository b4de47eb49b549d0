import { Button, Group, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal } from '../api/client'
import { RenameThing } from '../parts/RenameThing'
import { useRight } from '../signin/session'
import { tellChanged } from '../trash/undo'
import classes from './Office.module.css'

/** The parameters that are declared once for the whole catalog. */
export function SharedParameters() {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [changed, setChanged] = useState<string>()
  const shared = useQuery({
    queryKey: ['shared'],
    queryFn: async () => (await answer(api.GET('/shared', { parseAs: 'text' }))) as string,
  })
  const text = changed ?? shared.data ?? ''
  const put = (text: string) =>
    answer(
      api.PUT('/shared', {
        body: text,
        bodySerializer: (t: string) => t,
        headers: { 'Content-Type': 'application/yaml' },
      }),
    )
  const keep = useMutation({
    mutationFn: () => put(text),
    onSuccess: async () => {
      const was = shared.data ?? ''
      tellChanged('Shared parameters', () => put(was))
      setChanged(undefined)
      await client.invalidateQueries()
    },
  })
  const look = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/shared/effects', {
          body: text,
          bodySerializer: (t: string) => t,
          headers: { 'Content-Type': 'application/yaml' },
        }),
      ),
  })
  const refused = keep.error instanceof Refusal ? keep.error.problem : undefined
  return (
    <div className={classes.columns}>
      <Textarea
        classNames={{ input: classes.text }}
        aria-label="Shared parameters"
        spellCheck={false}
        value={text}
        readOnly={!mayKeep}
        onChange={e => setChanged(e.currentTarget.value)}
        autosize
        minRows={20}
        maxRows={32}
      />
      <aside className={classes.faults} aria-live="polite">
        <p className="dim">
          A definition uses one by <code>{'{use: ID}'}</code> and may refine any of its keys. When a change
          would make a report wrong, nothing changes.
        </p>
        <Group>
          <Button
            variant="light"
            disabled={changed === undefined}
            loading={look.isPending}
            onClick={() => look.mutate()}
          >
            What would it do?
          </Button>
          {mayKeep && (
            <Button disabled={changed === undefined} loading={keep.isPending} onClick={() => keep.mutate()}>
              Keep
            </Button>
          )}
        </Group>
        {mayKeep && changed === undefined && <Names />}
        {look.error && <p className={classes.wrong}>{look.error.message}</p>}
        {look.data && changed !== undefined && (
          <>
            <p>
              {look.data.length === 0
                ? 'Everything would go on fitting.'
                : 'Would no longer fit; their owners are told when it is kept:'}
            </p>
            <ul data-unfit>
              {look.data.map((e, i) => (
                <li key={i}>
                  {e.kind} <b>{e.name}</b> of {e.report}
                  {e.owner && `, ${e.owner}`}: {e.unfit.join('; ')}
                </li>
              ))}
            </ul>
          </>
        )}
        {keep.isSuccess && changed === undefined && <p>They are kept; every report was read anew.</p>}
        {refused && (
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
        )}
      </aside>
    </div>
  )
}

/** The ids of the shared parameters, to be changed one by one. */
function Names() {
  const names = useQuery({
    queryKey: ['definition names'],
    queryFn: () => answer(api.GET('/definitions/names')),
  })
  return (
    <ul aria-label="Their ids">
      {names.data?.shared.map(id => (
        <li key={id}>
          {id} <RenameThing kind="parameter" name={id} />
        </li>
      ))}
    </ul>
  )
}
