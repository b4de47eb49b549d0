import { Modal } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { answer, api, type Control, type PastControl } from '../api/client'
import { Failure } from '../parts/Failure'
import { moment } from '../parts/said'
import classes from './EarlierVersions.module.css'

type Props = { control: Control; onClose: () => void; onRestored: () => void }

/** What a run control was before it was overwritten, each version with a way back to it. */
export function EarlierVersions({ control, onClose, onRestored }: Props) {
  const path = { control: control.id }
  const past = useQuery({
    queryKey: ['control-past', control.id, control.revision],
    queryFn: () => answer(api.GET('/controls/{control}/past', { params: { path } })),
  })
  const restore = useMutation({
    mutationFn: (revision: number) =>
      answer(api.POST('/controls/{control}/restore', { params: { path, query: { revision } } })),
    onSuccess: onRestored,
  })
  return (
    <Modal opened onClose={onClose} title={`Earlier versions of “${control.title}”`} size="xl">
      {past.error && <Failure error={past.error} again={() => past.refetch()} />}
      {past.data?.length === 0 && <p className="dim">It was never overwritten.</p>}
      {restore.error && (
        <p className="told" role="alert">
          {restore.error.message}
        </p>
      )}
      <ul className={classes.list} data-past>
        {past.data?.map(p => (
          <li key={p.control.revision} className={classes.version}>
            <p className={classes.head}>
              Kept {moment(p.control.changedAt)}
              {p.control.changedBy && ` by ${p.control.changedBy}`}
              <button
                type="button"
                className="act"
                disabled={restore.isPending || !!p.control.broken}
                onClick={() => restore.mutate(p.control.revision)}
              >
                Bring back
              </button>
            </p>
            {p.control.broken ? <p className="told">{p.control.broken}</p> : <Differences of={p} />}
          </li>
        ))}
      </ul>
    </Modal>
  )
}

/** What bringing a version back would change. */
function Differences({ of }: { of: PastControl }) {
  if (of.differences.length === 0) return <p className="dim">As it is now.</p>
  return (
    <table className={classes.differences}>
      <thead>
        <tr>
          <th scope="col">Where</th>
          <th scope="col">Now</th>
          <th scope="col">Then</th>
        </tr>
      </thead>
      <tbody>
        {of.differences.map(d => (
          <tr key={d.place}>
            <th scope="row">{d.place}</th>
            <td>{d.is || <span className="dim">nothing</span>}</td>
            <td>{d.was || <span className="dim">nothing</span>}</td>
          </tr>
        ))}
      </tbody>
    </table>
  )
}
