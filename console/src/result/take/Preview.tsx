import { ActionIcon } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Take } from '../../api/client'
import { query, type Reading } from '../reading'
import classes from './TakeAway.module.css'
import { number as written } from '../../parts/form'

type Props = { result: string; view: string; reading: Reading; take: Take }

/** Pages as the PDF will have them, drawn by the service from the same layout. */
export function Preview({ result, view, reading, take }: Props) {
  const [number, setNumber] = useState(1)
  const [asked] = useDebouncedValue({ format: take.format, also: take.also, page: take.page }, 300)
  const page = useQuery({
    queryKey: ['preview', result, view, reading, asked, number],
    queryFn: () =>
      answer(
        api.POST('/results/{result}/views/{view}/page', {
          params: { path: { result, view }, query: { ...query(reading), number } },
          body: asked,
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  })
  const of = page.data?.of ?? 1
  const turn = (to: number) => setNumber(Math.min(Math.max(to, 1), of))
  const keys: Record<string, (() => void) | undefined> = {
    PageDown: () => turn(number + 1),
    PageUp: () => turn(number - 1),
    Home: () => turn(1),
    End: () => turn(of),
  }
  if (page.error && number > 1)
    return (
      <div className={classes.paper}>
        <button type="button" className="act" onClick={() => setNumber(1)}>
          To the first page
        </button>
      </div>
    )
  return (
    <div tabIndex={0} role="group" aria-label="Preview of the pages" onKeyDown={e => keys[e.key]?.()}>
      <div className={classes.turn}>
        <ActionIcon
          variant="subtle"
          aria-label="Page before"
          disabled={number === 1}
          onClick={() => turn(number - 1)}
        >
          ‹
        </ActionIcon>
        <span className="figure" data-page={number}>
          Page {number} of {written(of)}
        </span>
        <ActionIcon
          variant="subtle"
          aria-label="Page after"
          disabled={number === of}
          onClick={() => turn(number + 1)}
        >
          ›
        </ActionIcon>
      </div>
      {page.error ? (
        <p className="told" role="alert">
          {page.error.message}
        </p>
      ) : (
        <div className={classes.paper} dangerouslySetInnerHTML={{ __html: page.data?.drawing ?? '' }} />
      )}
    </div>
  )
}
