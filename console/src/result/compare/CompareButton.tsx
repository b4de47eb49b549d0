import { Button, Menu } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, type Result } from '../../api/client'
import { CompareDialog } from './CompareDialog'

/** What a result is compared with at one press, as the service calls it. */
const moves = { 'With the year before': 'year before', 'With the period before': 'previous period' }

/** Compares a result with what its report gives for earlier days, or with another result. */
export function CompareButton({ result: r }: { result: Result }) {
  const navigate = useNavigate()
  const [choosing, setChoosing] = useState(false)
  const compare = useMutation({
    mutationFn: (moved: string) =>
      answer(
        api.POST('/comparisons', { body: { before: { result: r.id, moved }, after: { result: r.id } } }),
      ),
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  return (
    <>
      <Menu position="bottom-end" shadow="md" withInitialFocusPlaceholder={false} keepMounted>
        <Menu.Target>
          <Button size="compact-sm" variant="subtle" color="gray" loading={compare.isPending}>
            Compare
          </Button>
        </Menu.Target>
        <Menu.Dropdown data-acts>
          {Object.entries(moves).map(([says, moved]) => (
            <Menu.Item
              key={moved}
              data-name={`Compare ${says.toLowerCase()}`}
              onClick={() => compare.mutate(moved)}
            >
              {says}
            </Menu.Item>
          ))}
          <Menu.Item data-name="Compare with another result" onClick={() => setChoosing(true)}>
            With another result
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      {compare.error && (
        <span className="told" role="alert">
          {compare.error.message}
        </span>
      )}
      {choosing && (
        <CompareDialog
          report={r.report}
          side={{ result: r.id }}
          name={r.id}
          onClose={() => setChoosing(false)}
        />
      )}
    </>
  )
}
