import { Button } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type Report } from '../api/client'
import { useRight } from '../signin/session'

/** Says that a report is retired, what takes its place, and brings it back for those who may. */
export function Retired({ report }: { report: Report }) {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const back = useMutation({
    mutationFn: () =>
      answer(api.DELETE('/reports/{report}/retirement', { params: { path: { report: report.id } } })),
    onSuccess: () => client.invalidateQueries(),
  })
  return (
    <div role="status">
      <p>
        It is retired and runs no more; its results can still be read.{' '}
        {report.successor && (
          <>
            In its place: <Link to={`/reports/${report.successor}`}>{report.successor}</Link>.
          </>
        )}
      </p>
      {mayKeep && (
        <Button variant="light" size="xs" mb="md" loading={back.isPending} onClick={() => back.mutate()}>
          Bring it back
        </Button>
      )}
      {back.error && <p>{back.error.message}</p>}
    </div>
  )
}
