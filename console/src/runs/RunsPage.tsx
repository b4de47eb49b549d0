import { SegmentedControl } from '@mantine/core'
import { useInfiniteQuery, useMutation, useQueryClient } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import { answer, api, type Run } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { count, length, moment } from '../parts/said'
import { useMayChange, useRight } from '../signin/session'
import { OtherDays } from './OtherDays'
import { formAddress } from './formAddress'
import { More } from '../parts/More'

const page = 200

const states = ['waiting', 'running', 'done', 'failed', 'stopped'] as const

/** All runs, the newest first; those under way move by themselves. */
export function RunsPage() {
  const [params, setParams] = useSearchParams()
  const mayChange = useMayChange()
  const mayRun = useRight('run')
  const client = useQueryClient()
  const state = states.find(s => s === params.get('state'))
  const pages = useInfiniteQuery({
    queryKey: ['runs', state],
    queryFn: ({ pageParam }) =>
      answer(api.GET('/runs', { params: { query: { state, limit: page, before: pageParam } } })),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: last => (last.length < page ? undefined : last[last.length - 1].id),
    refetchInterval: q => (q.state.data?.pages.some(p => p.some(underWay)) ? 700 : 10_000),
  })
  const runs = pages.data?.pages.flat()
  const stop = useMutation({
    mutationFn: (run: string) => answer(api.POST('/runs/{run}/stop', { params: { path: { run } } })),
    onSettled: () => client.invalidateQueries({ queryKey: ['runs'] }),
  })
  if (pages.error) return <Failure error={pages.error} again={() => pages.refetch()} />
  return (
    <>
      <List
        title="Runs"
        tools={
          <SegmentedControl
            size="xs"
            aria-label="State"
            data={[{ value: '', label: 'all' }, ...states.map(s => ({ value: s, label: s }))]}
            value={state ?? ''}
            onChange={s => setParams(s ? { state: s } : {})}
          />
        }
        heads={['Run', 'State', 'Asked', 'Rows', 'Took', 'Report', '']}
        right={[3, 4]}
        empty={
          runs?.length === 0 && (
            <State
              title={state ? `No run is ${state}` : 'Nothing has run yet'}
              next={<Link to="/catalog">Choose a report</Link>}
            />
          )
        }
      >
        {runs?.map(r => (
          <tr key={r.id}>
            <td>
              <Link to={underWay(r) || !r.result ? `/runs/${r.id}` : `/results/${r.result}`}>{r.id}</Link>
            </td>
            <td data-state={r.state}>{r.state}</td>
            <td>{moment(r.askedAt)}</td>
            <td data-right>{count(r.rows, '', '').trim()}</td>
            <td data-right>{length(r.seconds)}</td>
            <td>
              <strong>{r.title}</strong>{' '}
              <span className="dim">
                {r.reason ?? r.sentence}
                {r.control && `, for ${r.control}`}; {r.askedBy}
              </span>
            </td>
            <td>
              {underWay(r)
                ? mayChange(r.askedBy) && (
                    <button className="act" onClick={() => stop.mutate(r.id)}>
                      Stop
                    </button>
                  )
                : mayRun &&
                  !r.how && (
                    <>
                      <Link to={formAddress(r)}>Run again</Link>{' '}
                      <OtherDays report={r.report} title={r.title} values={r.values} />
                    </>
                  )}
            </td>
          </tr>
        ))}
      </List>
      <More
        of="runs"
        shown={pages.hasNextPage}
        loading={pages.isFetchingNextPage}
        onMore={() => pages.fetchNextPage()}
      />
    </>
  )
}

function underWay(r: Run) {
  return r.state === 'waiting' || r.state === 'running'
}
