import { answer, api } from '../../api/client'
import { offerUndo } from '../../trash/undo'

/** Offers to give a report the version that it had before; one that had none goes to the trash. */
export async function tellVersion(report: string, says: string) {
  const path = { report }
  const [now, before] = await answer(api.GET('/reports/{report}/versions', { params: { path } }))
  if (!now) return
  const restore = () =>
    answer(
      api.POST('/reports/{report}/versions/{number}/restore', {
        params: { path: { report, number: before!.number }, header: { 'If-Match': `"${now.version}"` } },
        body: { note: 'taken back' },
      }),
    )
  const remove = () => answer(api.DELETE('/reports/{report}', { params: { path } }))
  offerUndo({ id: report, says, undo: before ? restore : remove })
}
