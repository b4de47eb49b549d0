import { useMutation } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { Link, useLocation, useNavigate, useParams, useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import { State } from '../parts/State'

/**
 * Where a link from a row leads: runs the report with the values in the address and goes on to its result. Who comes
 * from anywhere but the console itself gets the form filled in, and runs it by hand.
 */
export function OpenPage() {
  const report = useParams().report!
  const [params] = useSearchParams()
  const navigate = useNavigate()
  const asked = useRef(false)
  const own = useLocation().key !== 'default' || document.referrer.startsWith(window.location.origin + '/')
  const run = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/runs', {
          params: { header: { 'Idempotency-Key': crypto.randomUUID() } },
          body: { report, values: Object.fromEntries(params) },
        }),
      ),
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
