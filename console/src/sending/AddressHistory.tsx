import { useQuery } from '@tanstack/react-query'
import { answer, api, type AddressChange } from '../api/client'
import { moment } from '../parts/said'

type Props = { nickname: string }

/** Who changed an entry of the address book, when, and to what: it tells where data went. */
export function AddressHistory({ nickname }: Props) {
  const history = useQuery({
    queryKey: ['addresses', nickname, 'history'],
    queryFn: () => answer(api.GET('/addresses/{nickname}/history', { params: { path: { nickname } } })),
  })
  if (!history.data?.length) return null
  return (
    <details style={{ marginTop: '1rem' }}>
      <summary>History</summary>
      <ol>
        {history.data.map(h => (
          <li key={h.at}>
            {moment(h.at)}, {h.by}: {h.what === 'deleted' ? 'deleted' : said(h.entry)}
          </li>
        ))}
      </ol>
    </details>
  )
}

function said(e: AddressChange | undefined) {
  if (!e) return 'kept'
  return [
    e.name,
    e.mail,
    e.person && `account ${e.person}`,
    e.units.length > 0 && `stands for ${e.units.join(', ')}`,
    e.groups.length > 0 && `in ${e.groups.join(', ')}`,
  ]
    .filter(Boolean)
    .join('; ')
}
