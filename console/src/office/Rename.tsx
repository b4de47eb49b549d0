import { Button, Group, Modal, Text, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import classes from './Office.module.css'

type Props = { report: string; title: string }

/** Gives a report another id; what is kept of it goes on, and links lead there. */
export function Rename({ report, title }: Props) {
  const client = useQueryClient()
  const [opened, { open, close }] = useDisclosure(false)
  const [to, setTo] = useState(report)
  const rename = useMutation({
    mutationFn: () =>
      answer(api.POST('/reports/{report}/rename', { params: { path: { report } }, body: { to } })),
    onSuccess: () => (close(), client.invalidateQueries()),
  })
  return (
    <>
      <button type="button" className="act" aria-label={`Rename ${report}`} onClick={open}>
        Rename
      </button>
      <Modal opened={opened} onClose={close} title={`Another id for ${title}`}>
        <form onSubmit={e => (e.preventDefault(), rename.mutate())}>
          <Text size="sm">
            Criteria, views, run controls, results and documents go on under the new id, and reports that link
            to it get new versions. Whoever asks for the old id is told the new one.
          </Text>
          <TextInput
            mt="sm"
            label="Id"
            value={to}
            onChange={e => setTo(e.currentTarget.value)}
            data-autofocus
          />
          {rename.error && <p className={classes.wrong}>{rename.error.message}</p>}
          <Group justify="flex-end" mt="md">
            <Button type="submit" disabled={to === report} loading={rename.isPending}>
              Rename it
            </Button>
          </Group>
        </form>
      </Modal>
    </>
  )
}
