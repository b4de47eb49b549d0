import { useQuery } from '@tanstack/react-query'
import { useEffect } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { answer, api, type Criteria, type Values } from '../api/client'
import { Failure } from '../parts/Failure'
import { CriteriaPanel } from './criteria/CriteriaPanel'
import { FormFields } from './form/FormFields'
import { useForm } from './form/useForm'
import classes from './ReportPage.module.css'
import { ReportSide } from './ReportSide'
import { Retired } from './Retired'
import { SourceFault } from './SourceFault'
import { RunFoot } from './RunFoot'
import { Heading } from '../parts/Heading'

/**
 * A report: what it is for, its form, and the way to run it. The address holds what was filled in, and
 * from which criteria.
 */
export function ReportPage() {
  const [params] = useSearchParams()
  const id = useParams().report!
  const number = params.get('criteria') ?? ''
  const linked = useQuery({
    queryKey: ['criteria', number],
    queryFn: () => answer(api.GET('/criteria/{criteria}', { params: { path: { criteria: number } } })),
    enabled: number !== '',
  })
  if (linked.error) return <Failure error={linked.error} />
  if (number && !linked.data) return null
  return <Filled key={`${id} ${number}`} id={id} criteria={linked.data} />
}

type Props = { id: string; criteria: Criteria | undefined }

function Filled({ id, criteria }: Props) {
  const [params, setParams] = useSearchParams()
  const { criteria: _, ...written } = Object.fromEntries(params) as Values
  const filling = useForm(id, { ...criteria?.values, ...written }, criteria?.id)
  const { report, typed } = filling
  // The fields are the truth and the address follows, so that no letter waits for it.
  const address = JSON.stringify([criteria?.id, differing(typed, criteria?.values)])
  useEffect(() => {
    const [number, values] = JSON.parse(address) as [string | null, Values]
    setParams({ ...(number ? { criteria: number } : {}), ...values }, { replace: true })
  }, [address, setParams])
  const ready = Boolean(report && filling.form)
  useEffect(() => {
    // Who came by the keyboard goes on in the first field.
    if (
      ready &&
      [document.body, document.getElementById('place')].includes(document.activeElement as HTMLElement)
    )
      document.querySelector<HTMLElement>('[data-form] input')?.focus({ preventScroll: true })
  }, [ready])
  if (filling.error) return <Failure error={filling.error} />
  if (!report) return null
  // Other criteria make a new form of this page; the same ones fill this form anew.
  const load = (c: Criteria) =>
    c.id === criteria?.id ? filling.fill(c.values) : setParams({ criteria: c.id })
  return (
    <div className={classes.page}>
      <div className={classes.scroll}>
        <div className={classes.columns}>
          <section>
            <p className={classes.category}>
              <Link to={`/catalog?category=${encodeURIComponent(report.category)}`}>{report.category}</Link>
            </p>
            <Heading className={classes.title} title={report.title} />
            <p className={classes.about}>{report.about}</p>
            {report.retired && <Retired report={report} />}
            <SourceFault form={filling.form} />
            <FormFields
              filling={filling}
              onLast={() => document.querySelector<HTMLButtonElement>('[data-run]')?.focus()}
            />
          </section>
          <ReportSide report={report} filesOf={filling.form?.filesOf}>
            <CriteriaPanel report={id} filling={filling} loaded={criteria} onLoad={load} />
          </ReportSide>
        </div>
      </div>
      <RunFoot
        filling={filling}
        criteria={
          criteria && Object.keys(differing(typed, criteria.values)).length === 0 ? criteria.id : undefined
        }
      />
    </div>
  )
}

/** The values that are not as they were kept. */
function differing(typed: Values, kept: Values = {}): Values {
  return Object.fromEntries(Object.entries(typed).filter(([name, value]) => kept[name] !== value))
}
