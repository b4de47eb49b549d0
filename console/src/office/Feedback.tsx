import { Button, Group, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Schemas } from '../api/client'
import { Failure } from '../parts/Failure'
import { moment } from '../parts/said'
import classes from './Office.module.css'

/** What readers wrote, and the answers to it. */
export function Feedback() {
  const feedback = useQuery({ queryKey: ['feedback'], queryFn: () => answer(api.GET('/feedback')) })
  if (feedback.error) return <Failure error={feedback.error} again={() => feedback.refetch()} />
  if (!feedback.data) return null
  if (feedback.data.length === 0) return <p>Nobody has written yet.</p>
  return (
    <ol className={classes.versions}>
      {feedback.data.map(f => (
        <Written key={f.number} of={f} />
      ))}
    </ol>
  )
}

function Written({ of }: { of: Schemas['Feedback'] }) {
  const client = useQueryClient()
  const [text, setText] = useState(of.answer)
  const act = useMutation({
    mutationFn: (state: 'answered' | 'done') =>
      answer(
        api.PUT('/feedback/{number}', {
          params: { path: { number: of.number } },
          body: { state, answer: text },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ['feedback'] }),
  })
  return (
    <li>
      <b>{of.person}</b> of <Link to={`/reports/${of.report}`}>{of.report}</Link>
      {of.result && (
        <>
          , <Link to={`/results/${of.result}`}>{of.result}</Link>
        </>
      )}{' '}
      <small>
        {moment(of.at)}, {of.state}
      </small>
      <p>{of.says}</p>
      {of.answeredBy && of.answer && (
        <p>
          {of.answeredBy}: {of.answer}
        </p>
      )}
      {of.state !== 'done' && (
        <>
          <Textarea
            aria-label={`Answer to ${of.person}`}
            value={text}
            onChange={e => setText(e.currentTarget.value)}
            autosize
            minRows={2}
            maxLength={2000}
            maw="40rem"
          />
          {act.error && <p className={classes.wrong}>{act.error.message}</p>}
          <Group mt="xs">
            <Button
              size="xs"
              disabled={!text.trim()}
              loading={act.isPending}
              onClick={() => act.mutate('answered')}
            >
              Answer
            </Button>
            <Button size="xs" variant="default" onClick={() => act.mutate('done')}>
              It is done
            </Button>
          </Group>
        </>
      )}
    </li>
  )
}
