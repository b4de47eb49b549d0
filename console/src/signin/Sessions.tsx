import { Modal } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { moment } from '../parts/said'
import { Remove } from '../parts/Remove'
import { NewToken } from './NewToken'

type Props = {
  /** Whose; one's own when it is not given. */
  person?: string
  onClose: () => void
}

/** The browsers and command lines that an account is signed in by; each can be signed out. */
export function Sessions({ person, onClose }: Props) {
  const query = person ? { person } : {}
  const sessions = useQuery({
    queryKey: ['sessions', person],
    queryFn: () => answer(api.GET('/sessions', { params: { query } })),
  })
  const end = async (session: string) => {
    await answer(api.DELETE('/sessions/{session}', { params: { path: { session }, query } }))
    await sessions.refetch()
  }
  return (
    <Modal
      opened
      onClose={onClose}
      title={person ? `Where ${person} is signed in` : 'Where you are signed in'}
      size="lg"
    >
      {sessions.error && (
        <p className="told" role="alert">
          {sessions.error.message}
        </p>
      )}
      {sessions.data?.length === 0 && <p>Nowhere.</p>}
      <ul style={{ paddingLeft: '1.1rem' }}>
        {sessions.data?.map(s => (
          <li key={s.id} data-session={s.id}>
            {s.kind === 'browser' ? 'A browser' : 'A token'}
            {s.label && `, ${s.label}`}
            {s.as && `, as ${s.as}`}, since {moment(s.madeAt)}, until {moment(s.endsAt)}
            {s.lastAt && `, used last ${moment(s.lastAt)}`}{' '}
            {s.present ? (
              <em>this one</em>
            ) : (
              <Remove
                word="Sign out"
                name={s.label || s.kind}
                says="It has to sign in again before it reads or runs anything."
                onRemove={() => end(s.id)}
              />
            )}
          </li>
        ))}
      </ul>
      <NewToken person={person} onMade={() => sessions.refetch()} />
    </Modal>
  )
}
