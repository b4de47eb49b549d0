import { Button, Group, Modal, Select, Text } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { offerUndo } from '../trash/undo'
import classes from './Office.module.css'

type Props = { report: string; title: string }

/** Retires a report: what depends on it is named first, and what takes its place. */
export function Retire({ report, title }: Props) {
  const client = useQueryClient()
  const [opened, { open, close }] = useDisclosure(false)
  const [successor, setSuccessor] = useState<string | null>(null)
  const params = { path: { report } }
  const dependents = useQuery({
    queryKey: ['dependents', report],
    queryFn: () => answer(api.GET('/reports/{report}/dependents', { params })),
    enabled: opened,
  })
  const catalog = useQuery({
    queryKey: ['catalog', '', ''],
    queryFn: () => answer(api.GET('/catalog')),
    enabled: opened,
  })
  const retire = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/reports/{report}/retirement', { params, body: { successor: successor ?? undefined } }),
      ),
    onSuccess: () => {
      offerUndo({
        id: report,
        says: `“${title}” is retired.`,
        undo: () => answer(api.DELETE('/reports/{report}/retirement', { params })),
      })
      close()
      return client.invalidateQueries()
    },
  })
  return (
    <>
      <button type="button" className="act" aria-label={`Retire ${report}`} onClick={open}>
        Retire
      </button>
      <Modal opened={opened} onClose={close} title={`Retire ${title}?`} size="lg">
        <Text>It leaves the catalog and runs no more. Its results stay and can be read.</Text>
        {dependents.data && dependents.data.length > 0 && (
          <>
            <Text mt="sm">On it depend; their owners are told:</Text>
            <ul>
              {dependents.data.map(e => (
                <li key={e.kind + e.id + e.name}>
                  {e.kind} <b>{e.name}</b>
                  {e.owner && ` of ${e.owner}`}
                </li>
              ))}
            </ul>
          </>
        )}
        <Select
          mt="sm"
          label="What takes its place"
          searchable
          clearable
          data={
            catalog.data?.reports.filter(r => r.id !== report).map(r => ({ value: r.id, label: r.title })) ??
            []
          }
          value={successor}
          onChange={setSuccessor}
        />
        {retire.error && <p className={classes.wrong}>{retire.error.message}</p>}
        <Group justify="flex-end" mt="md">
          <Button variant="default" onClick={close} data-autofocus>
            Keep it
          </Button>
          <Button loading={retire.isPending} onClick={() => retire.mutate()}>
            Retire it
          </Button>
        </Group>
      </Modal>
    </>
  )
}
