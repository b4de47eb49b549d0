import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api } from '../api/client'
import { moment } from '../parts/said'
import classes from './Desk.module.css'

/** What the service tells one, until it is put away; nothing where there is nothing. */
export function Notices() {
  const client = useQueryClient()
  const notices = useQuery({ queryKey: ['notices'], queryFn: () => answer(api.GET('/notices')) })
  const away = useMutation({
    mutationFn: (notice: number) => answer(api.DELETE('/notices/{notice}', { params: { path: { notice } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['notices'] }),
  })
  if (!notices.data || notices.data.length === 0) return null
  return (
    <section className={classes.notices} aria-label="Notices">
      <ul>
        {notices.data.map(n => (
          <li key={n.number}>
            <span>
              <Link to={n.place}>{n.says}</Link> <small>{moment(n.at)}</small>
            </span>
            <button
              type="button"
              className="act"
              aria-label={`Put away: ${n.says}`}
              onClick={() => away.mutate(n.number)}
            >
              Put away
            </button>
          </li>
        ))}
      </ul>
    </section>
  )
}
