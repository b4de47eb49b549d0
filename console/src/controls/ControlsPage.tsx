import { Button, TextInput } from '@mantine/core'
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { answer, api } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { moment } from '../parts/said'
import { useRight } from '../signin/session'
import { useSearch } from '../parts/useSearch'

/** All run controls that one sees: open, run with one click. */
export function ControlsPage() {
  const { typed, settled, type } = useSearch()
  const navigate = useNavigate()
  const client = useQueryClient()
  const mayRun = useRight('run')
  const controls = useQuery({
    queryKey: ['controls', settled],
    queryFn: () => answer(api.GET('/controls', { params: { query: { search: settled, limit: 200 } } })),
    placeholderData: keepPreviousData,
  })
  const run = useMutation({
    mutationFn: (control: string) =>
      answer(api.POST('/controls/{control}/runs', { params: { path: { control } }, body: { values: {} } })),
    onSuccess: batch => (
      client.invalidateQueries({ queryKey: ['control-runs'] }),
      navigate(`/controls/${batch[0].control}`)
    ),
  })
  if (controls.error) return <Failure error={controls.error} again={() => controls.refetch()} />
  const make = mayRun && (
    <Button component={Link} to="/controls/new" size="xs">
      New run control
    </Button>
  )
  return (
    <List
      title="Run controls"
      tools={
        <>
          <TextInput
            data-search
            type="search"
            w="20rem"
            placeholder="Search run controls"
            aria-label="Search run controls"
            value={typed}
            onChange={e => type(e.currentTarget.value)}
          />
          {make}
        </>
      }
      heads={['Run control', 'Reports', 'Whose', 'Last run', '']}
      empty={
        controls.data?.length === 0 && (
          <State
            title={settled ? 'No run control meets the search' : 'There are no run controls yet'}
            said="A run control runs one or several reports under a name, each with its values."
            next={make}
          />
        )
      }
    >
      {controls.data?.map(c => (
        <tr key={c.id}>
          <td>
            <Link to={`/controls/${c.id}`}>{c.title}</Link>
          </td>
          <td style={{ whiteSpace: 'normal' }} data-state={c.broken ? 'failed' : undefined}>
            {c.broken || c.steps.map(s => s.report).join(', ')}
          </td>
          <td>
            {c.mine ? 'mine' : c.owner}
            {c.shared && <span className="dim">, shared with {c.shared}</span>}
          </td>
          <td>{c.lastRun ? moment(c.lastRun) : 'never'}</td>
          <td>
            {mayRun && (
              <button className="act" onClick={() => run.mutate(c.id)}>
                Run
              </button>
            )}
            {run.error && run.variables === c.id && (
              <div style={{ color: 'var(--alert)' }}>{run.error.message}</div>
            )}
          </td>
        </tr>
      ))}
    </List>
  )
}
