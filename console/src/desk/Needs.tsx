import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api } from '../api/client'
import { count, moment } from '../parts/said'
import { offerUndo } from '../trash/undo'
import classes from './Desk.module.css'

const few = 5

/** All that needs one, the newest first, each with what there is to do; nothing where there is nothing. */
export function Needs() {
  const client = useQueryClient()
  const [all, setAll] = useState(false)
  const needs = useQuery({
    queryKey: ['needs'],
    queryFn: () => answer(api.GET('/needs')),
    refetchInterval: 30_000,
  })
  const away = useMutation({
    mutationFn: (notice: number) => answer(api.DELETE('/notices/{notice}', { params: { path: { notice } } })),
    onSuccess: (_, notice) => {
      offerUndo({
        id: String(notice),
        says: 'It is put away.',
        undo: () => answer(api.PUT('/notices/{notice}', { params: { path: { notice } } })),
      })
      return client.invalidateQueries({ queryKey: ['needs'] })
    },
  })
  if (!needs.data || needs.data.length === 0) return null
  const shown = all ? needs.data : needs.data.slice(0, few)
  return (
    <section className={classes.needs} aria-labelledby="needs">
      <h2 id="needs">Needs you</h2>
      <ul>
        {shown.map(n => (
          <li key={n.kind + n.of + n.at + n.notice} data-need={n.kind}>
            <span>
              <Link to={n.place}>{n.says}</Link>{' '}
              <small>
                {n.do} · {moment(n.at)}
              </small>
            </span>
            {n.notice !== undefined && (
              <button
                type="button"
                className="act"
                aria-label={`Put away: ${n.says}`}
                onClick={() => away.mutate(n.notice!)}
              >
                Put away
              </button>
            )}
          </li>
        ))}
      </ul>
      {needs.data.length > few && (
        <button type="button" className="act" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? 'The newest alone' : `${count(needs.data.length - few, 'more', 'more')}`}
        </button>
      )}
    </section>
  )
}
