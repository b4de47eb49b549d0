import { Button } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { answer, api, Refusal, type Result } from '../../api/client'
import { OtherDays } from '../../runs/OtherDays'
import { formAddress } from '../../runs/formAddress'

/** Runs the report again with the values of a result; where they no longer hold, its form says so. */
export function RunAgain({ result }: { result: Result }) {
  const navigate = useNavigate()
  const run = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/runs', {
          params: { header: { 'Idempotency-Key': crypto.randomUUID() } },
          body: { report: result.report, values: result.values },
        }),
      ),
    onSuccess: r => navigate(`/runs/${r.id}`),
    onError: e => e instanceof Refusal && navigate(formAddress(result)),
  })
  return (
    <>
      <Button
        size="compact-sm"
        variant="subtle"
        color="gray"
        loading={run.isPending}
        title="Run it again with these values"
        onClick={() => run.mutate()}
      >
        Run again
      </Button>
      <OtherDays report={result.report} title={result.title} values={result.values} />
    </>
  )
}
