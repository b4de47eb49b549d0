import { Badge, TextInput } from '@mantine/core'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { count, moment, size } from '../parts/said'
import { useSearch } from '../parts/useSearch'
import { useMayChange } from '../signin/session'
import { DeleteResult } from './DeleteResult'
import { More } from '../parts/More'

const page = 200

/** Everything that was kept: find it, open it, delete it. */
export function ResultsPage() {
  const { typed, settled, type } = useSearch()
  const mayChange = useMayChange()
  const pages = useInfiniteQuery({
    queryKey: ['results', { search: settled, limit: page }],
    queryFn: ({ pageParam }) =>
      answer(api.GET('/results', { params: { query: { search: settled, limit: page, before: pageParam } } })),
    initialPageParam: undefined as string | undefined,
    getNextPageParam: last => (last.length < page ? undefined : last[last.length - 1].id),
    placeholderData: keepPreviousData,
  })
  const results = pages.data?.pages.flat()
  if (pages.error) return <Failure error={pages.error} again={() => pages.refetch()} />
  return (
    <>
      <List
        title="Results"
        tools={
          <TextInput
            data-search
            type="search"
            w="20rem"
            placeholder="Search results"
            aria-label="Search results"
            value={typed}
            onChange={e => type(e.currentTarget.value)}
          />
        }
        heads={['Result', 'Kept', 'By', 'Report', 'Rows', 'Size', '']}
        right={[4, 5]}
        empty={
          results?.length === 0 && (
            <State
              title={settled ? 'No result meets the search' : 'Nothing is kept yet'}
              said={settled ? 'Try fewer words.' : 'Run a report, and its result is kept here.'}
              next={<Link to="/catalog">Choose a report</Link>}
            />
          )
        }
      >
        {results?.map(r => (
          <tr key={r.id}>
            <td>
              <Link to={`/results/${r.id}`}>{r.id}</Link>
            </td>
            <td>{moment(r.keptAt)}</td>
            <td>{r.askedBy}</td>
            <td style={{ whiteSpace: 'normal' }}>
              <strong>{r.title}</strong> <span className="dim">{r.sentence}</span>{' '}
              {r.marked && (
                <Badge tt="none" size="sm" color="amber" variant="light">
                  a check does not hold
                </Badge>
              )}
            </td>
            <td data-right>{count(r.rows, '', '').trim()}</td>
            <td data-right>{size(r.bytes)}</td>
            <td>{mayChange(r.askedBy) && <DeleteResult result={r.id} title={r.title} />}</td>
          </tr>
        ))}
      </List>
      <More
        of="results"
        shown={pages.hasNextPage}
        loading={pages.isFetchingNextPage}
        onMore={() => pages.fetchNextPage()}
      />
    </>
  )
}
