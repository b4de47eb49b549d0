import { Button } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { answer, api, Refusal, type Values } from '../api/client'
import { Failure } from '../parts/Failure'
import { Field } from './fields/Field'
import classes from './ReportPage.module.css'
import { ReportSide } from './ReportSide'
import { useResolution } from './resolution'

/** A report: what it is for, its form, and the way to run it. The address holds what was filled in. */
export function ReportPage() {
  const id = useParams().report!
  const [params, setParams] = useSearchParams()
  const [typed, setTyped] = useState<Values>(() => Object.fromEntries(params))
  const navigate = useNavigate()
  const [asked, setAsked] = useState(false)
  const report = useQuery({ queryKey: ['report', id], queryFn: () => answer(api.GET('/reports/{report}', { params: { path: { report: id } } })) })
  const values: Values = Object.fromEntries((report.data?.parameters ?? []).map((p) => [p.id, typed[p.id] ?? p.default]))
  const resolution = useResolution(id, values, report.isSuccess)
  const run = useMutation({
    mutationFn: () => answer(api.POST('/runs', { params: { header: { 'Idempotency-Key': crypto.randomUUID() } }, body: { report: id, values } })),
    onMutate: () => setAsked(true),
    onSuccess: (r) => navigate(`/runs/${r.id}`),
  })
  useHotkeys([['mod+Enter', () => run.mutate()]], [])
  if (report.error) return <Failure error={report.error} />
  if (!report.data) return null
  const { title, category, about, parameters } = report.data
  const refused = run.error instanceof Refusal ? run.error.problem : undefined
  // A field that was left empty is no fault until the report is asked for.
  const faults = (resolution?.faults ?? refused?.fields ?? []).filter((f) => asked || values[f.field])
  // The fields are the truth and the address follows, so that no letter waits for it.
  const set = (name: string, value: string) => {
    const { [name]: _, ...others } = typed
    const next = value === parameters.find((p) => p.id === name)?.default ? others : { ...others, [name]: value }
    setTyped(next)
    setParams(next, { replace: true })
  }
  return (
    <div className={classes.page}>
      <div className={classes.scroll}>
        <div className={classes.columns}>
          <section>
            <p className={classes.category}><Link to={`/?category=${encodeURIComponent(category)}`}>{category}</Link></p>
            <h1 className={classes.title}>{title}</h1>
            <p className={classes.about}>{about}</p>
            <form className={classes.form} onSubmit={(e) => (e.preventDefault(), run.mutate())}>
              {parameters.map((p) => (
                <div key={p.id} className={p.type === 'choice' || p.type === 'unit' ? classes.wide : undefined}>
                  <Field
                    report={id} parameter={p} value={values[p.id]} onChange={(v) => set(p.id, v)}
                    fault={faults.find((f) => f.field === p.id)} says={resolution?.facts.find((f) => f.parameter === p.id)?.says}
                  />
                </div>
              ))}
              <button type="submit" hidden />
            </form>
          </section>
          <ReportSide report={report.data} />
        </div>
      </div>
      <footer className={classes.foot}>
        <p className={classes.sentence} aria-live="polite" data-sentence>
          {faults.length > 0 ? <span className={classes.wrong}>{faults.length === 1 ? 'One value is not right.' : `${faults.length} values are not right.`}</span> : resolution?.sentence}
          {refused && refused.fields.length === 0 && <span className={classes.wrong}> {refused.detail}</span>}
        </p>
        <Button size="md" loading={run.isPending} onClick={() => run.mutate()} title="Ctrl Enter">Run</Button>
      </footer>
    </div>
  )
}
