import { Button } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Result } from '../../api/client'
import { useRight } from '../../signin/session'
import { ReconcileDialog } from './ReconcileDialog'

type Props = { result: Result; open: boolean; onOpen: () => void }

/** Reconciling a result whose report declares a statement, or choosing in one that was reconciled. */
export function ReconcileButtons({ result, open, onOpen }: Props) {
  const mayRun = useRight('run')
  const [asked, setAsked] = useState(false)
  const statements = useQuery({
    queryKey: ['statements', result.report],
    queryFn: () =>
      answer(api.GET('/reports/{report}/statements', { params: { path: { report: result.report } } })),
    enabled: mayRun && !result.made,
  })
  if (!mayRun) return null
  if (result.made?.how === 'reconcile')
    return (
      <Button size="xs" variant="light" aria-expanded={open} onClick={onOpen}>
        Choose what belongs together
      </Button>
    )
  if (result.made || !statements.data?.declared.length) return null
  return (
    <>
      <Button size="xs" variant="light" onClick={() => setAsked(true)}>
        Reconcile
      </Button>
      {asked && <ReconcileDialog result={result} onClose={() => setAsked(false)} />}
    </>
  )
}
