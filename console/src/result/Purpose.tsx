import { Button, Group, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal } from '../api/client'
import { Heading } from '../parts/Heading'
import classes from './Purpose.module.css'

type Props = { report: string; title: string }

/** Stands before a result whose report asks what it is read for. */
export function Purpose({ report, title }: Props) {
  const client = useQueryClient()
  const [purpose, setPurpose] = useState('')
  const say = useMutation({
    mutationFn: () =>
      answer(api.PUT('/reports/{report}/purpose', { params: { path: { report } }, body: { purpose } })),
    onSuccess: () => client.invalidateQueries(),
  })
  const fault = say.error instanceof Refusal ? say.error.problem.fields[0]?.message : say.error?.message
  return (
    <form className={classes.page} onSubmit={e => (e.preventDefault(), say.mutate())}>
      <Heading className={classes.title} title={title}>
        {title}
      </Heading>
      <p>
        It says of people what not everybody is to see. Say first what you read it for: that counts for twelve
        hours, and is kept with each reading.
      </p>
      <Group align="start">
        <TextInput
          name="purpose"
          aria-label="What you read it for"
          placeholder="yearly talk with the team"
          w={360}
          maxLength={200}
          autoFocus
          value={purpose}
          onChange={e => setPurpose(e.currentTarget.value)}
          error={fault}
        />
        <Button type="submit" loading={say.isPending}>
          Go on
        </Button>
      </Group>
    </form>
  )
}
