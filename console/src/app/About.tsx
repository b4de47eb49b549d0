import { useQuery } from '@tanstack/react-query'
import { Link, useLocation } from 'react-router'
import { answer, api } from '../api/client'

/** The page of the guide that a place is explained on; none for places that need no explaining. */
const pages: [RegExp, string][] = [
  [/^\/$/, 'desk'],
  [/^\/catalog/, 'catalog'],
  [/^\/(reports|open|runs)/, 'report'],
  [/^\/results/, 'results'],
  [/^\/controls/, 'controls'],
  [/^\/timetable/, 'timetable'],
  [/^\/sending/, 'sending'],
  [/^\/office/, 'office'],
]

type Props = { className?: string; onGo?: () => void }

/** What the place in sight is for, in a line, with the way to its page of the guide. */
export function About({ className, onGo }: Props) {
  const { pathname } = useLocation()
  const page = pages.find(([of]) => of.test(pathname))?.[1]
  const lines = useQuery({
    queryKey: ['guide', ''],
    queryFn: () => answer(api.GET('/guide', { params: { query: { search: '' } } })),
    staleTime: Infinity,
    enabled: page !== undefined,
  })
  const line = lines.data?.find(l => l.id === page)?.line
  if (!page || !line) return null
  return (
    <p className={className} data-about-place>
      {line}{' '}
      <Link to={`/guide/${page}`} onClick={onGo}>
        How it is used
      </Link>
    </p>
  )
}
