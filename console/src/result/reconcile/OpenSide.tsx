import { Button } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, api, type Schemas } from '../../api/client'
import side from '../side/Side.module.css'
import { OpenItems } from './OpenItems'
import classes from './OpenSide.module.css'
import { at } from '../../api/below'

type Choice = Schemas['MatchChoice']

const flip = (of: number[], n: number) => (of.includes(n) ? of.filter(x => x !== n) : [...of, n])

/** What a reconciliation left open: whoever looks chooses what belongs together, and it is reconciled again. */
export function OpenSide({ result }: { result: string }) {
  const navigate = useNavigate()
  const [ours, setOurs] = useState<number[]>([])
  const [lines, setLines] = useState<number[]>([])
  const [added, setAdded] = useState<Choice[]>([])
  const [dropped, setDropped] = useState<number[]>([])
  const open = useQuery({
    queryKey: ['reconciliation', result],
    queryFn: () => answer(api.GET('/results/{result}/reconciliation', { params: { path: { result } } })),
    staleTime: Infinity,
  })
  const o = open.data
  const before = o?.chosen.filter((_, i) => !dropped.includes(i)) ?? []
  const chosen = [...before, ...added]
  const again = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/reconciliations', {
          body: {
            result: o!.result,
            statement: o!.statement,
            until: o!.until,
            chosen,
            ...(o!.earlier ? { earlier: o!.earlier } : {}),
          },
        }),
      ),
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  if (open.error) return <aside className={side.side}>{open.error.message}</aside>
  if (!o) return null
  const taken = (which: 'ours' | 'lines') => added.flatMap(c => c[which])
  return (
    <aside className={side.side} data-open-items>
      <h2>What is open</h2>
      <p>
        <Link to={`/results/${o.result}`}>{o.result}</Link> with{' '}
        <a href={at(`/api/statements/${o.statement}/file`)} download>
          {o.name}
        </a>
        , until {o.until}. Mark what belongs together on both sides, or lines that cancel each other.
      </p>
      <OpenItems
        title="Ours"
        items={o.ours}
        marked={ours}
        taken={taken('ours')}
        onMark={n => setOurs(flip(ours, n))}
      />
      <OpenItems
        title="Lines of the statement"
        items={o.lines}
        marked={lines}
        taken={taken('lines')}
        onMark={n => setLines(flip(lines, n))}
      />
      {o.more > 0 && <p className="dim">{o.more} more are open; the view “What is open” has all.</p>}
      <Button
        size="xs"
        variant="default"
        mb="sm"
        disabled={ours.length + lines.length < 2}
        onClick={() => {
          setAdded([...added, { ours, lines }])
          setOurs([])
          setLines([])
        }}
      >
        These belong together
      </Button>
      {(o.chosen.length > 0 || added.length > 0) && <h2>Chosen by hand</h2>}
      <ul className={classes.chosen}>
        {o.chosen.map((c, i) => (
          <li key={i} className={dropped.includes(i) ? classes.dropped : undefined}>
            {said(c)}{' '}
            <button type="button" className="act" onClick={() => setDropped(flip(dropped, i))}>
              {dropped.includes(i) ? 'Choose it again' : 'Let go'}
            </button>
          </li>
        ))}
        {added.map((c, i) => (
          <li key={`new ${i}`}>
            {said(c)}{' '}
            <button type="button" className="act" onClick={() => setAdded(added.filter((_, at) => at !== i))}>
              Let go
            </button>
          </li>
        ))}
      </ul>
      {again.error && (
        <p className={side.bad} role="alert">
          {again.error.message}
        </p>
      )}
      <Button
        size="xs"
        disabled={added.length + dropped.length === 0}
        loading={again.isPending}
        onClick={() => again.mutate()}
      >
        Reconcile again
      </Button>
    </aside>
  )
}

/** A choice as people read it. */
function said(c: Choice) {
  if (c.ours.length === 0) return `lines ${c.lines.join(' and ')} cancel each other`
  if (c.lines.length === 0) return `numbers ${c.ours.join(' and ')} cancel each other`
  return `number ${c.ours.join(' + ')} is line ${c.lines.join(' + ')}`
}
