import { ActionIcon, Menu } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, Refusal, type Parameter, type Values } from '../api/client'
import { formAddress } from './formAddress'
import { useService } from '../api/useService'

type Props = { report: string; title: string; values: Values }

// A period is whole: this month, and not the month to date.
const whole = /^(this|last) (week|month|quarter|year)$/

/** Runs a report again with the values that it had, for other days. */
export function OtherDays({ report, title, values }: Props) {
  const navigate = useNavigate()
  const [open, setOpen] = useState(false)
  const about = useQuery({
    queryKey: ['report', report],
    queryFn: () => answer(api.GET('/reports/{report}', { params: { path: { report } } })),
    enabled: open,
  })
  const service = useService()
  const days = about.data?.parameters.find(days_)
  const names = service.data?.presets.filter(p => days?.type === 'range' || whole.test(p.name)) ?? []
  const run = useMutation({
    mutationFn: (name: string) =>
      answer(
        api.POST('/runs', {
          params: { header: { 'Idempotency-Key': crypto.randomUUID() } },
          body: { report, values: { ...values, [days!.id]: name } },
        }),
      ),
    onSuccess: r => navigate(`/runs/${r.id}`),
    onError: (e, name) =>
      e instanceof Refusal && navigate(formAddress({ report, values: { ...values, [days!.id]: name } })),
  })
  return (
    <Menu opened={open} onChange={setOpen} position="bottom-end" shadow="md">
      <Menu.Target>
        <ActionIcon size="sm" variant="subtle" color="gray" aria-label={`Run ${title} again for other days`}>
          ↻
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>Run it again for</Menu.Label>
        {about.data && !days && <Menu.Item disabled>It has no days that could be others</Menu.Item>}
        {days &&
          names.map(p => (
            <Menu.Item key={p.name} onClick={() => run.mutate(p.name)}>
              {p.name} <span className="dim">{p.says}</span>
            </Menu.Item>
          ))}
      </Menu.Dropdown>
    </Menu>
  )
}

/** Whether a parameter says for which days a report is run. */
const days_ = (p: Parameter) => (p.type === 'range' && !p.time) || p.type === 'period'
