import { useMutation, useQuery } from '@tanstack/react-query'
import { answer, api, type Criteria } from '../../api/client'
import { Failure } from '../../parts/Failure'
import { moment } from '../../parts/said'
import classes from './CriteriaPanel.module.css'

type Props = { criteria: Criteria; onRestored: () => void }

/** What criteria held before they were overwritten, each with a way back. */
export function EarlierValues({ criteria, onRestored }: Props) {
  const path = { criteria: criteria.id }
  const past = useQuery({
    queryKey: ['criteria-past', criteria.id, criteria.revision],
    queryFn: () => answer(api.GET('/criteria/{criteria}/past', { params: { path } })),
  })
  const restore = useMutation({
    mutationFn: (revision: number) =>
      answer(api.POST('/criteria/{criteria}/restore', { params: { path, query: { revision } } })),
    onSuccess: onRestored,
  })
  if (past.error) return <Failure error={past.error} again={() => past.refetch()} />
  if (past.data?.length === 0) return <p className="dim">Their values were never overwritten.</p>
  return (
    <>
      <p>Now: {criteria.sentence}</p>
      <ul className={classes.list} data-past>
        {past.data?.map(p => (
          <li key={p.revision} className={classes.row}>
            <p className={classes.today}>{p.sentence || p.unfit.join('; ')}</p>
            <p className={classes.past}>
              kept {moment(p.changedAt)}{' '}
              <button
                type="button"
                className="act"
                disabled={restore.isPending}
                onClick={() => restore.mutate(p.revision)}
              >
                Bring back
              </button>
            </p>
          </li>
        ))}
      </ul>
      {restore.error && (
        <p className="told" role="alert">
          {restore.error.message}
        </p>
      )}
    </>
  )
}
