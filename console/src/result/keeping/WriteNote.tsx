import { Button, Group, Textarea } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../../api/client'

type Props = {
  result: string
  answers?: number
  about?: Schemas['NoteAbout']
  /** A row as kept, of the dataset of a view, that the note is about. */
  row?: { view: string; row: number }
  onDone: () => void
}

/** Writes a note on a result, on rows of it, or an answer to one. */
export function WriteNote({ result, answers, about, row, onDone }: Props) {
  const client = useQueryClient()
  const [says, setSays] = useState('')
  const write = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/results/{result}/notes', {
          params: { path: { result } },
          body: { says, answers, about: row ? { view: row.view } : about, row: row?.row },
        }),
      ),
    onSuccess: async () => {
      setSays('')
      await client.invalidateQueries({ queryKey: ['keeping'] })
      onDone()
    },
  })
  const of = about?.says ? `A note on ${about.says}` : row ? 'A note on this row' : 'A note on the result'
  return (
    <form onSubmit={e => (e.preventDefault(), write.mutate())}>
      <Textarea
        size="xs"
        label={answers ? 'Your answer' : of}
        description="Names with @ before them are told: @lila"
        autosize
        minRows={2}
        maxLength={4000}
        value={says}
        onChange={e => setSays(e.currentTarget.value)}
        error={write.error?.message}
      />
      <Group justify="flex-end" mt="xs">
        {(answers || about) && (
          <Button size="xs" variant="subtle" onClick={onDone}>
            Leave it
          </Button>
        )}
        <Button size="xs" variant="light" type="submit" disabled={!says.trim()} loading={write.isPending}>
          Write
        </Button>
      </Group>
    </form>
  )
}
