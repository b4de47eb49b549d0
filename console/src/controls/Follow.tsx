import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api, type Control } from '../api/client'

/** Being told of what somebody else's run control gives, each time. */
export function Follow({ control }: { control: Control }) {
  const client = useQueryClient()
  const path = { control: control.id }
  const now = useQuery({
    queryKey: ['follow', control.id],
    queryFn: () => answer(api.GET('/controls/{control}/follow', { params: { path } })),
  })
  const follow = useMutation({
    mutationFn: (follows: boolean) =>
      answer(api.PUT('/controls/{control}/follow', { params: { path }, body: { follows } })),
    onSuccess: is => client.setQueryData(['follow', control.id], is),
  })
  if (!now.data) return null
  const { follows } = now.data
  return (
    <>
      <button
        className="act"
        aria-pressed={follows}
        title="On your desk and by mail, each time it gives a result that you may see"
        onClick={() => follow.mutate(!follows)}
      >
        {follows ? 'You are told of its results' : 'Tell me of its results'}
      </button>
      {follow.error && (
        <span className="told" role="alert">
          {follow.error.message}
        </span>
      )}
    </>
  )
}
