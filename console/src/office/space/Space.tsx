import { Progress, SegmentedControl } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api } from '../../api/client'
import { size } from '../../parts/said'
import { KeepRules } from './KeepRules'
import { Quotas } from './Quotas'
import classes from '../Office.module.css'
import { number } from '../../parts/form'
import { Rows } from '../../parts/Rows'

type Way = 'reports' | 'people' | 'ages'
const ways: { value: Way; label: string }[] = [
  { value: 'reports', label: 'by report' },
  { value: 'people', label: 'by who asked' },
  { value: 'ages', label: 'by age' },
]

/** What takes space: the records on their disk, and the results in them. */
export function Space() {
  const [way, setWay] = useState<Way>('reports')
  const space = useQuery({ queryKey: ['space'], queryFn: () => answer(api.GET('/space')) })
  const rules = useQuery({ queryKey: ['rules'], queryFn: () => answer(api.GET('/rules')) })
  const s = space.data
  if (!s) return space.error && <p className={classes.wrong}>{space.error.message}</p>
  const full = Math.round((100 * (s.disk - s.diskFree)) / s.disk)
  return (
    <section aria-label="Space">
      <p>
        The records take {size(s.file)}, of which {size(s.free)} are free. Their disk has {size(s.diskFree)}{' '}
        left of {size(s.disk)}.
      </p>
      <Progress value={full} aria-label={`The disk is ${full} % full`} mb="md" maw="30rem" />
      <SegmentedControl
        size="xs"
        mb="sm"
        data={ways}
        value={way}
        onChange={w => setWay(w as Way)}
        aria-label="Results"
      />
      <Rows heads={['Of', 'Results', 'Rows', 'They take', 'of which for ever']}>
        {s[way].map(t => (
          <tr key={t.name}>
            <td>{way === 'reports' ? <Link to={`/results?search=${t.name}`}>{t.name}</Link> : t.name}</td>
            <td>{number(t.results)}</td>
            <td>{number(t.rows)}</td>
            <td>{size(t.bytes)}</td>
            <td>{size(t.forEver)}</td>
          </tr>
        ))}
      </Rows>
      <p className="dim">What deletions leave free is given back to the disk within an hour.</p>
      {rules.data && <KeepRules rules={rules.data.keep} />}
      {rules.data && <Quotas quotas={rules.data.quotas} />}
    </section>
  )
}
