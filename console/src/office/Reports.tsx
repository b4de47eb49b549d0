import { TextInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, api } from '../api/client'
import { Failure } from '../parts/Failure'
import { Remove } from '../parts/Remove'
import { RenameThing } from '../parts/RenameThing'
import { dayOf } from '../parts/said'
import { fromTrash } from '../trash/undo'
import { useRight } from '../signin/session'
import { Care } from './Care'
import classes from './Office.module.css'
import { Retire } from './Retire'
import { Versions } from './versions/Versions'
import { Rows } from '../parts/Rows'

/** The reports of the catalog: changed by way of a draft, with their versions. */
export function Reports() {
  const client = useQueryClient()
  const go = useNavigate()
  const mayKeep = useRight('catalog')
  const [search, setSearch] = useState('')
  const [wanted] = useDebouncedValue(search, 200)
  const [versionsOf, setVersionsOf] = useState<string>()
  const catalog = useQuery({
    queryKey: ['catalog', wanted, ''],
    queryFn: () => answer(api.GET('/catalog', { params: { query: { search: wanted } } })),
    placeholderData: keepPreviousData, // what was opened from a row stays open meanwhile
  })
  const cares = useQuery({ queryKey: ['cares'], queryFn: () => answer(api.GET('/cares')) })
  const careOf = (report: string) => cares.data?.find(c => c.report === report)
  const change = useMutation({
    mutationFn: (report: string) => answer(api.POST('/drafts', { body: { copy: report } })),
    onSuccess: d => go(`/office/drafts/${d.line.id}`),
  })
  if (catalog.error) return <Failure error={catalog.error} again={() => catalog.refetch()} />
  return (
    <section>
      <TextInput
        aria-label="Find a report"
        placeholder="Find a report"
        value={search}
        onChange={e => setSearch(e.currentTarget.value)}
        maw="24rem"
        mb="sm"
      />
      {change.error && <p className={classes.wrong}>{change.error.message}</p>}
      <Rows heads={['Report', 'Category', 'Id', 'Owner', 'Review', '']}>
        {catalog.data?.reports.map(r => (
          <tr key={r.id}>
            <td>
              <Link to={`/reports/${r.id}`}>{r.title}</Link>
              {r.broken && <p className={classes.wrong}>cannot be read: {r.broken}</p>}
            </td>
            <td>{r.category}</td>
            <td>{r.id}</td>
            <td>{careOf(r.id)?.owner}</td>
            <td className={careOf(r.id)?.due ? classes.due : undefined}>
              {careOf(r.id)?.reviewOn && dayOf(Date.parse(careOf(r.id)!.reviewOn!) / 86_400_000)}
            </td>
            <td className="acts">
              <button
                type="button"
                className="act"
                aria-label={`Change ${r.id}`}
                onClick={() => change.mutate(r.id)}
              >
                Change
              </button>
              <button
                type="button"
                className="act"
                aria-label={`Versions of ${r.id}`}
                onClick={() => setVersionsOf(r.id)}
              >
                Versions
              </button>
              <Care report={r.id} title={r.title} care={careOf(r.id)} />
              {mayKeep && <RenameThing kind="report" name={r.id} title={r.title} />}
              {mayKeep && <Retire report={r.id} title={r.title} />}
              {mayKeep && (
                <Remove
                  name={r.id}
                  says="The report leaves the catalog and stays in the trash for 30 days; results that were kept stay and can be read."
                  undo={fromTrash('report', r.id)}
                  onRemove={async () => {
                    await answer(api.DELETE('/reports/{report}', { params: { path: { report: r.id } } }))
                    await client.invalidateQueries()
                  }}
                />
              )}
            </td>
          </tr>
        ))}
      </Rows>
      <Versions report={versionsOf} onClose={() => setVersionsOf(undefined)} />
    </section>
  )
}
