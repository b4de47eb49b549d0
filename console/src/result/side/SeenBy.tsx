import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { count, moment } from '../../parts/said'

/** Who read a result or took it away, for who keeps the catalog. */
export function SeenBy({ result }: { result: string }) {
  const readers = useQuery({
    queryKey: ['readers', result],
    queryFn: () => answer(api.GET('/results/{result}/readers', { params: { path: { result } } })),
  })
  return (
    <section aria-label="Seen by">
      <h2>Seen by</h2>
      {readers.error && <p role="alert">{readers.error.message}</p>}
      {readers.data?.length === 0 && <p className="dim">Nobody read it yet.</p>}
      <dl>
        {readers.data?.map(r => (
          <div key={`${r.person}${r.face}${r.act}`}>
            <dt>{r.person ?? 'the service'}</dt>
            <dd>
              {r.says}, {moment(r.last)}
              <div className="dim">
                by {r.face}
                {r.times > 1 && `, ${count(r.times, 'time', 'times')} since ${moment(r.first)}`}
              </div>
            </dd>
          </div>
        ))}
      </dl>
    </section>
  )
}
