import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { Document } from '../parts/Document'
import classes from './ReportSide.module.css'

type Props = { report: string }

/** Documents and links that are kept beside a report; nothing where there are none. */
export function Documents({ report }: Props) {
  const kept = useQuery({
    queryKey: ['resources', report],
    queryFn: () => answer(api.GET('/resources', { params: { query: { report } } })),
  })
  if (!kept.data || kept.data.length === 0) return null
  return (
    <section>
      <h2>Documents and links</h2>
      <ul className={classes.past}>
        {kept.data.map(r => (
          <li key={r.id}>
            <Document resource={r} />
          </li>
        ))}
      </ul>
    </section>
  )
}
