import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Letter } from '../api/client'
import { State } from '../parts/State'
import { moment, size } from '../parts/said'
import classes from './Mailbox.module.css'
import { at } from '../api/below'

/** What the stand-in mail server got: letters at the left, the one opened at the right. */
export function Mailbox({ letters }: { letters: Letter[] }) {
  const [chosen, setChosen] = useState<string>()
  const id = chosen ?? letters[0]?.id
  if (letters.length === 0)
    return (
      <State title="The mailbox is empty" said="What is sent while no real mail server is set comes here." />
    )
  return (
    <div className={classes.box}>
      <ul className={classes.letters}>
        {letters.map(l => (
          <li key={l.id}>
            <button aria-current={l.id === id || undefined} onClick={() => setChosen(l.id)}>
              <strong>{l.subject}</strong>
              <span>{l.recipient}</span>
              <span className="dim">
                {moment(l.at)} · {size(l.bytes)}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <Opened key={id} id={id} />
    </div>
  )
}

function Opened({ id }: { id: string }) {
  const letter = useQuery({
    queryKey: ['letter', id],
    queryFn: () => answer(api.GET('/mailbox/{letter}', { params: { path: { letter: id } } })),
    staleTime: Infinity,
  })
  const l = letter.data
  if (!l) return null
  return (
    <article className={classes.letter} data-letter={id}>
      <h2>{l.subject}</h2>
      <dl>
        {l.headers
          .filter(h => h.name !== 'Subject')
          .map(h => (
            <div key={h.name}>
              <dt>{h.name}</dt>
              <dd>{h.text}</dd>
            </div>
          ))}
      </dl>
      <pre>{l.text}</pre>
      <ul>
        {l.parts.map(p => (
          <li key={p.number}>
            <a href={at(`/api/mailbox/${id}/parts/${p.number}`)} download>
              {p.name || 'the message as a page'}
            </a>{' '}
            <span className="dim">{size(p.bytes)}</span>
          </li>
        ))}
      </ul>
    </article>
  )
}
