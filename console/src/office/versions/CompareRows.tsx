import { Button, Group, TextInput } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api } from '../../api/client'
import { valuesIn } from '../../parts/valuesIn'
import classes from '../Office.module.css'

type Props = { report: string; number: number }

/** Runs an earlier version of a report and that of now with the same values, and opens what changed. */
export function CompareRows({ report, number }: Props) {
  const navigate = useNavigate()
  const [typed, setTyped] = useState('')
  const compare = useMutation({
    mutationFn: () => {
      const values = valuesIn(typed)
      return answer(
        api.POST('/comparisons', {
          body: { before: { report, version: number, values }, after: { report, values } },
        }),
      )
    },
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  return (
    <form onSubmit={e => (e.preventDefault(), compare.mutate())}>
      <Group align="flex-end" my="xs">
        <TextInput
          label="Values"
          placeholder="received=2026-09; the others as the form has them"
          w="22rem"
          value={typed}
          onChange={e => setTyped(e.currentTarget.value)}
        />
        <Button type="submit" variant="light" loading={compare.isPending}>
          Compare its rows with those of now
        </Button>
      </Group>
      {compare.error && (
        <p className={classes.wrong} role="alert">
          {compare.error.message}
        </p>
      )}
    </form>
  )
}
