import { NumberInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api } from '../../api/client'
import { Failure } from '../../parts/Failure'
import { length } from '../../parts/said'
import classes from '../Office.module.css'
import { Rows } from '../../parts/Rows'

/** What the catalog needs, each with why and what mends it, and how a report was used. */
export function Health() {
  const [days, setDays] = useState(180)
  const [unusedDays] = useDebouncedValue(days, 300)
  const [used, setUsed] = useState<string>()
  const health = useQuery({
    queryKey: ['health', unusedDays],
    queryFn: () => answer(api.GET('/health', { params: { query: { unusedDays } } })),
    placeholderData: keepPreviousData,
  })
  if (health.error) return <Failure error={health.error} again={() => health.refetch()} />
  if (!health.data) return null
  const { problems, reports } = health.data
  return (
    <section>
      <NumberInput
        label="Days after which a report that nobody runs is told"
        value={days}
        onChange={d => setDays(Math.max(1, Number(d) || 1))}
        min={1}
        max={10_000}
        maw="22rem"
        mb="sm"
      />
      <p role="status">
        {problems.length === 0
          ? `All ${reports} reports are well.`
          : `${problems.length} things to look at among ${reports} reports.`}
      </p>
      <Rows heads={['What', 'Report', 'Why', 'What mends it', '']}>
        {problems.map((p, i) => (
          <tr key={i}>
            <td>{p.kind}</td>
            <td>
              <Link to={`/reports/${p.report}`}>{p.title}</Link>
            </td>
            <td>{p.says}</td>
            <td>
              <Link to={p.place}>{p.mend}</Link>
            </td>
            <td className="acts">
              <button
                type="button"
                className="act"
                aria-label={`Use of ${p.report}`}
                aria-expanded={used === p.report}
                onClick={() => setUsed(used === p.report ? undefined : p.report)}
              >
                Use
              </button>
            </td>
          </tr>
        ))}
      </Rows>
      {used && <Use report={used} />}
    </section>
  )
}

function Use({ report }: { report: string }) {
  const use = useQuery({
    queryKey: ['use', report],
    queryFn: () => answer(api.GET('/reports/{report}/use', { params: { path: { report } } })),
  })
  if (use.error) return <p className={classes.wrong}>{use.error.message}</p>
  if (!use.data) return null
  if (use.data.length === 0) return <p>{report} was never run.</p>
  return (
    <Rows
      heads={['Month', 'Runs', 'Failed', 'People', 'Results kept', 'Readers', 'Read', 'Taken away', 'Took']}
      caption={<>{report}, month by month</>}
    >
      {use.data.map(m => (
        <tr key={m.month}>
          <td>{m.month}</td>
          <td>{m.runs}</td>
          <td>{m.failed}</td>
          <td>{m.people}</td>
          <td>{m.results}</td>
          <td>{m.readers}</td>
          <td>{m.reads}</td>
          <td>{m.exports}</td>
          <td>{length(m.seconds)}</td>
        </tr>
      ))}
    </Rows>
  )
}
