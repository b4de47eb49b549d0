import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { Link, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import { State } from '../parts/State'
import { useRight } from '../signin/session'

/**
 * Where a link from a row leads: runs the report with the values in the address and goes on to its result. Who comes
 * from anywhere but the console itself gets the form filled in, and runs it by hand. Who may not run reports has the
 * link of the row followed, which the address names after #.
 */
export function OpenPage() {
  const report = useParams().report!
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const asked = useRef(false)
  const own = useLocation().key !== 'default' || document.referrer.startsWith(window.location.origin + '/')
  const runs = useRight('run')
  const [result, view, row, column] = decodeURIComponent(useLocation().hash.slice(1)).split('/')
  const run = useMutation({
    mutationFn: () => {
      const header = { 'Idempotency-Key': crypto.randomUUID() }
      return !runs && column
        ? answer(
            api.POST('/results/{result}/views/{view}/follow', {
              params: { header, path: { result, view } },
              body: { row: Number(row), column },
            }),
          )
        : answer(
            api.POST('/runs', { params: { header }, body: { report, values: Object.fromEntries(params) } }),
          )
    },
    onSuccess: r => navigate(`/runs/${r.id}`, { replace: true }),
  })
  useEffect(() => {
    if (asked.current) return
    asked.current = true
    if (own) run.mutate()
    else navigate(`/reports/${report}?${params}`, { replace: true })
  })
  if (!run.error) return <State title="Opening" />
  return (
    <State
      alone
      title="The report could not be run"
      said={run.error.message}
      next={<Link to={`/reports/${report}?${params}`}>Open its form with these values</Link>}
    />
  )
}
