import { Button, Group, Modal, Select, Text } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Person } from '../api/client'
import classes from './Office.module.css'

type Props = { person: Person; people: Person[] }

/** Gives what a person keeps to another, as when somebody leaves. */
export function HandOver({ person, people }: Props) {
  const client = useQueryClient()
  const [opened, { open, close }] = useDisclosure(false)
  const [to, setTo] = useState<string | null>(null)
  const hand = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/people/{person}/hand-over', {
          params: { path: { person: person.name } },
          body: { to: to! },
        }),
      ),
    onSuccess: () => client.invalidateQueries(),
  })
  return (
    <>
      <button type="button" className="act" aria-label={`Hand over what ${person.name} keeps`} onClick={open}>
        Hand over
      </button>
      <Modal opened={opened} onClose={close} title={`Hand over what ${person.title} keeps`}>
        <Text size="sm">
          Criteria, kept views, run controls, drafts, reports that they look after, terms, addresses and the
          tiles of their desk go to another person. Runs and results stay under the name of who made them.
        </Text>
        <Select
          mt="sm"
          label="To"
          searchable
          data={people
            .filter(p => p.name !== person.name && !p.closed)
            .map(p => ({ value: p.name, label: p.title }))}
          value={to}
          onChange={setTo}
          data-autofocus
        />
        {hand.error && <p className={classes.wrong}>{hand.error.message}</p>}
        {hand.data && (
          <p role="status">
            {hand.data.length === 0
              ? 'There was nothing to hand over.'
              : `Handed over: ${hand.data.join(', ')}.`}
          </p>
        )}
        <Group justify="flex-end" mt="md">
          <Button disabled={!to} loading={hand.isPending} onClick={() => hand.mutate()}>
            Hand over
          </Button>
        </Group>
      </Modal>
    </>
  )
}
