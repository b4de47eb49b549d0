import { Chip, Group, Select, TextInput } from '@mantine/core'
import { DayInput } from '../parts/DayInput'
import { keepPreviousData, useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import type { paths } from '../api/schema'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { State } from '../parts/State'
import { count, moment, size } from '../parts/said'
import { useSearch } from '../parts/useSearch'
import { useMayChange } from '../signin/session'
import { BringBack } from './BringBack'
import { DeleteResult } from './DeleteResult'
import { KeptBadge } from './KeptBadge'
import { More } from '../parts/More'
import { useService } from '../api/useService'

const page = 200

type Found = Pick<
  NonNullable<paths['/results']['get']['parameters']['query']>,
  'kept' | 'by' | 'since' | 'until'
>

/** Everything that was kept: find it, open it, delete it. */
export function ResultsPage() {
  const { typed, settled, type } = useSearch()
  const mayChange = useMayChange()
  const [params] = useSearchParams()
  const [found, setFound] = useState<Found>(() => (params.get('kept') === 'signed' ? { kept: 'signed' } : {}))
  const service = useService()
  const lastYear = service.data?.presets.find(p => p.name === 'last year')
  const narrow = (to: Found) => setFound({ ...found, ...to })
  const pages = useInfiniteQuery({
    queryKey: ['results', { search: settled, limit: page, ...found }],
    queryFn: ({ pageParam }) =>
      answer(
        api.GET('/results', {
          params: { query: { search: settled, limit: page, before: pageParam, ...found } },
        }),
      ),
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
          <Group gap="xs">
            <Select
              w="11rem"
              aria-label="Which results"
              placeholder="All results"
              clearable
              data={[
                { value: 'signed', label: 'Signed off' },
                { value: 'held', label: 'Held or signed off' },
                { value: 'noted', label: 'With open notes' },
                { value: 'trashed', label: 'In the trash' },
              ]}
              value={found.kept ?? null}
              onChange={k => narrow({ kept: (k ?? undefined) as Found['kept'] })}
            />
            <Chip
              size="xs"
              checked={found.kept === 'signed'}
              onChange={on => narrow({ kept: on ? 'signed' : undefined })}
            >
              Signed off
            </Chip>
            <Chip
              size="xs"
              checked={lastYear !== undefined && found.until === lastYear.last}
              onChange={on =>
                narrow({ since: on ? lastYear?.first : undefined, until: on ? lastYear?.last : undefined })
              }
            >
              Last year
            </Chip>
            <TextInput
              w="8rem"
              aria-label="Asked for by"
              placeholder="By whom"
              value={found.by ?? ''}
              onChange={e => narrow({ by: e.currentTarget.value.trim() || undefined })}
            />
            <DayInput
              w="9rem"
              aria-label="Kept on this day or later"
              placeholder="Kept from"
              value={found.since}
              onChange={since => narrow({ since })}
            />
            <DayInput
              w="9rem"
              aria-label="Kept on this day or earlier"
              placeholder="Kept until"
              value={found.until}
              onChange={until => narrow({ until })}
            />
            <TextInput
              data-search
              type="search"
              w="16rem"
              placeholder="Search results and notes"
              aria-label="Search results"
              value={typed}
              onChange={e => type(e.currentTarget.value)}
            />
          </Group>
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
            <td>{found.kept === 'trashed' ? r.id : <Link to={`/results/${r.id}`}>{r.id}</Link>}</td>
            <td>{moment(r.keptAt)}</td>
            <td>{r.askedBy}</td>
            <td style={{ whiteSpace: 'normal' }}>
              <strong>{r.title}</strong> <span className="dim">{r.sentence}</span> <KeptBadge result={r} />
            </td>
            <td data-right>{count(r.rows, '', '').trim()}</td>
            <td data-right>{size(r.bytes)}</td>
            <td>
              {mayChange(r.askedBy) &&
                (found.kept === 'trashed' ? (
                  <BringBack result={r.id} />
                ) : (
                  <DeleteResult result={r.id} title={r.title} />
                ))}
            </td>
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
