import { Button, FileButton, Group, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import dayjs from 'dayjs'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Remove } from '../parts/Remove'
import { Rows } from '../parts/Rows'
import { fromTrash, tellChanged } from '../trash/undo'

/** Calendars of days off, which timetables count by; they are read from iCalendar files. */
export function DaysOff() {
  const client = useQueryClient()
  const [id, setId] = useState('')
  const calendars = useQuery({ queryKey: ['calendars'], queryFn: () => answer(api.GET('/calendars')) })
  const done = () => client.invalidateQueries({ queryKey: ['calendars'] })
  const put = (calendar: string, text: string) =>
    answer(
      api.PUT('/calendars/{calendar}', {
        params: { path: { calendar } },
        body: text,
        bodySerializer: (t: string) => t,
        headers: { 'Content-Type': 'text/calendar' },
      }),
    )
  const keep = useMutation({
    mutationFn: async (file: File) => {
      const params = { path: { calendar: id } }
      const there = calendars.data?.some(c => c.id === id)
      const was = there
        ? await answer(api.GET('/calendars/{calendar}', { params, parseAs: 'text' }))
        : undefined
      await put(id, await file.text())
      return was
    },
    onSuccess: was => {
      if (was !== undefined) tellChanged(id, () => put(id, was))
      setId('')
      return done()
    },
  })
  const remove = useMutation({
    mutationFn: (calendar: string) =>
      answer(api.DELETE('/calendars/{calendar}', { params: { path: { calendar } } })),
    onSuccess: done,
  })
  const error = keep.error ?? remove.error
  return (
    <>
      <Rows heads={['Calendar', 'Title', 'Days', 'Next', '']}>
        {calendars.data?.map(c => (
          <tr key={c.id}>
            <td>
              <button className="act" onClick={() => setId(c.id)}>
                {c.id}
              </button>
            </td>
            <td>{c.title}</td>
            <td>{c.of}</td>
            <td>
              {c.days
                .slice(0, 6)
                .map(d => dayjs(d).format('D MMM YYYY'))
                .join(', ')}
            </td>
            <td>
              <Remove
                name={c.title}
                says="Its days count for nothing any more. One that a timetable counts by is not deleted."
                onRemove={() => remove.mutateAsync(c.id)}
                undo={fromTrash('calendar', c.id)}
              />
            </td>
          </tr>
        ))}
      </Rows>
      <Group align="flex-end">
        <TextInput
          name="calendar-id"
          label="Id"
          placeholder="holidays"
          value={id}
          onChange={e => setId(e.currentTarget.value)}
        />
        <FileButton accept=".ics,text/calendar" onChange={f => f && keep.mutate(f)}>
          {props => (
            <Button {...props} disabled={!id} loading={keep.isPending}>
              Take an iCalendar file
            </Button>
          )}
        </FileButton>
      </Group>
      <p className="dim">
        Each day of an event is a day off. A file for an id that is there takes its place, and what is due is
        reckoned anew.
      </p>
      {error && (
        <p className="told" role="alert">
          {error.message}
        </p>
      )}
    </>
  )
}
