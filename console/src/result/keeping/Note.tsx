import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type Schemas } from '../../api/client'
import { moment } from '../../parts/said'
import { write } from '../reading'
import classes from './KeepingSide.module.css'

type Props = { note: Schemas['Note'] }

/** The address of the rows that a note is about. */
function addressOf(about: Schemas['NoteAbout']) {
  return write(new URLSearchParams({ view: about.view }), about.view, { filter: about.filters ?? [] })
}

/** A note: who wrote what of which rows, and whether it is settled. */
export function Note({ note: n }: Props) {
  const client = useQueryClient()
  const settle = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/notes/{number}/settled', {
          params: { path: { number: n.number } },
          body: { settled: !n.settledBy },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['keeping'] }),
  })
  return (
    <div className={n.answers ? classes.answer : undefined}>
      <div className="dim">
        {n.person}, {moment(n.at)}
        {n.about && (
          <>
            {' '}
            on <Link to={`?${addressOf(n.about)}`}>{n.about.says}</Link>
          </>
        )}
        {!n.answers && (
          <>
            {' '}
            <button type="button" className="act" onClick={() => settle.mutate()}>
              {n.settledBy ? `Settled by ${n.settledBy}: open again` : 'Settle'}
            </button>
          </>
        )}
      </div>
      <p className={n.settledBy ? `${classes.says} ${classes.settled}` : classes.says}>{n.says}</p>
      {settle.error && <p role="alert">{settle.error.message}</p>}
    </div>
  )
}
