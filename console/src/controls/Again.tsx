import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api, type ControlRun } from '../api/client'
import { useMayChange } from '../signin/session'

type Props = { of: ControlRun; owner: string }

/** Tries again what failed of a run of a control, for those who may change the control. */
export function Again({ of, owner }: Props) {
  const client = useQueryClient()
  const mayChange = useMayChange()
  const again = useMutation({
    mutationFn: () => answer(api.POST('/control-runs/{set}/again', { params: { path: { set: of.id } } })),
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ['timetable'] }),
        client.invalidateQueries({ queryKey: ['control-runs'] }),
      ]),
  })
  const failed = of.sending === 'failed' || of.runs.some(r => r.state === 'failed' || r.state === 'stopped')
  if (!failed || !mayChange(owner)) return null
  return (
    <>
      <button className="act" disabled={again.isPending} onClick={() => again.mutate()}>
        Try again
      </button>
      {again.error && <span role="alert"> {again.error.message}</span>}
    </>
  )
}
