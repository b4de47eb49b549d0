import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import {
  answer,
  api,
  type Fault,
  type Form,
  type Parameter,
  type Report,
  type Resolution,
  type Values,
} from '../../api/client'
import { useResolution } from './resolution'

export type Filling = {
  report: Report | undefined
  form: Form | undefined
  error: Error | null
  /** The value of every parameter, as typed or as it stands at first. */
  values: Values
  /** Only what differs from what stands at first. */
  typed: Values
  resolution: Resolution | undefined
  faults: Fault[]
  /** What was left out because another value rules it out, by parameter. */
  dropped: Record<string, string[]>
  set: (name: string, value: string) => void
  fill: (values: Values) => void
  /** From now on, empty fields that are needed count as faults. */
  ask: () => void
}

/** A report's form as it is filled in: values, what they come to today, and what is wrong with them. */
export function useForm(id: string, start: Values, criteria?: string): Filling {
  const [typed, setTyped] = useState(start)
  const [asked, setAsked] = useState(false)
  const [dropped, setDropped] = useState<Record<string, string[]>>({})
  const report = useQuery({
    queryKey: ['report', id],
    queryFn: () => answer(api.GET('/reports/{report}', { params: { path: { report: id } } })),
    enabled: Boolean(id),
  })
  const form = useQuery({
    queryKey: ['form', id],
    queryFn: () => answer(api.GET('/reports/{report}/form', { params: { path: { report: id } } })),
    enabled: Boolean(id),
  })
  const ready = report.isSuccess && form.isSuccess
  const standing = (p: Parameter) => form.data?.defaults[p.id] ?? p.default
  const values: Values = ready
    ? Object.fromEntries(report.data.parameters.map(p => [p.id, typed[p.id] ?? standing(p)]))
    : {}
  const resolution = useResolution(id, values, ready, criteria)
  // What another value rules out is left out and told, not hidden.
  const out = resolution?.faults.find(f => f.rest !== undefined && f.dropped && typed[f.field] !== f.rest)
  if (out) {
    setTyped({ ...typed, [out.field]: out.rest! })
    setDropped({ ...dropped, [out.field]: out.dropped! })
  }
  const set = (name: string, value: string) => {
    const { [name]: _, ...others } = typed
    const { [name]: __, ...told } = dropped
    const p = report.data?.parameters.find(q => q.id === name)
    setDropped(told)
    setTyped(p && value === standing(p) ? others : { ...others, [name]: value })
  }
  return {
    report: report.data,
    form: form.data,
    error: report.error ?? form.error,
    values,
    typed,
    resolution,
    dropped,
    set,
    // A field that was left empty is no fault until the report is asked for.
    faults: (resolution?.faults ?? []).filter(f => asked || values[f.field] !== ''),
    fill: next => {
      setDropped({})
      setTyped(next)
    },
    ask: () => setAsked(true),
  }
}
