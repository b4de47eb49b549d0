import { Button, Select } from '@mantine/core'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { lazy, Suspense, useState } from 'react'
import { answer, api, type Draft, type Schemas } from '../../api/client'
import { FormFields } from '../../report/form/FormFields'
import { useForm } from '../../report/form/useForm'
import classes from './DraftPage.module.css'
import { number } from '../../parts/form'

const Drawing = lazy(() => import('../../result/chart/Drawing'))

type Props = { draft: Draft; kept: boolean }

/** The form of a draft as people would meet it, and the first rows that it gives in each view. */
export function FirstRows({ draft, kept }: Props) {
  const filling = useForm(draft.line.tryAs, {})
  const [view, setView] = useState<string | null>(null)
  const [wanted, setWanted] = useState(false) // from then on they follow text and values
  const views = filling.report?.views ?? []
  const chosen = views.find(v => v.id === view)?.id ?? views[0]?.id
  const values = filling.typed
  const preview = useQuery({
    queryKey: ['preview', draft.line.tryAs, draft.revision, chosen, values],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/drafts/{draft}/preview', {
          params: { path: { draft: draft.line.id } },
          body: { view: chosen, values },
          signal,
        }),
      ),
    enabled: wanted && kept && filling.report !== undefined,
    retry: false,
    placeholderData: keepPreviousData,
    gcTime: 10_000,
  })
  const show = () => {
    if (wanted) preview.refetch()
    else setWanted(true)
  }
  if (filling.error) return <p>There is no form yet: {filling.error.message}</p>
  if (!filling.report) return null
  return (
    <div>
      <FormFields filling={filling} narrow onLast={show} />
      <div className={classes.wish}>
        <Select
          label="View"
          data={views.map(v => ({ value: v.id, label: v.title }))}
          value={chosen ?? null}
          onChange={setView}
          allowDeselect={false}
        />
        <Button onClick={show} loading={preview.isFetching} disabled={!kept}>
          Show the first rows
        </Button>
      </div>
      {preview.error && !preview.isFetching && <p className={classes.wrong}>{preview.error.message}</p>}
      {preview.data && !preview.error && (
        <Shown preview={preview.data} old={preview.isPlaceholderData || !kept || preview.isFetching} />
      )}
    </div>
  )
}

/** What was read; while it is read anew, what stands there is marked as old. */
function Shown({ preview, old }: { preview: Schemas['DraftPreview']; old: boolean }) {
  const { sheet } = preview
  return (
    <div data-preview data-old={old || undefined} className={classes.preview} aria-busy={old}>
      <p>{preview.sentence}</p>
      {sheet.says && <p>{sheet.says}</p>}
      {sheet.chart && (
        <div className={classes.chart}>
          <Suspense fallback={null}>
            <Drawing chart={sheet.chart} active={undefined} onActive={() => {}} onOpen={() => {}} />
          </Suspense>
        </div>
      )}
      <div className={classes.rows} tabIndex={0} role="region" aria-label="First rows">
        <table>
          <thead>
            <tr>
              {sheet.columns.map(c => (
                <th key={c.id} scope="col" data-right={c.right || undefined}>
                  {c.heading}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {sheet.cells.map((cells, i) => (
              <tr key={i}>
                {cells.map((cell, j) => (
                  <td key={j} data-right={sheet.columns[j].right || undefined}>
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p>
        {preview.cut
          ? `Figures of the first ${number(sheet.of)} rows; there are more. Nothing of it is kept.`
          : `${number(sheet.of)} rows. Nothing of them is kept.`}
      </p>
      <details>
        <summary>The SQL, and what is bound in it</summary>
        {preview.statements.map((s, i) => (
          <pre key={i} className={classes.sql}>
            {`-- ${s.dataset}\n${s.text}\n` + s.values.map((v, n) => `-- ${n + 1}: ${v}\n`).join('')}
          </pre>
        ))}
      </details>
    </div>
  )
}
