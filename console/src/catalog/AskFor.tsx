import { Button, Group, Modal, Textarea } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'

type Props = { report: string; title: string }

/** Asks for a report that is listed and not open to one. */
export function AskFor({ report, title }: Props) {
  const [opened, { open, close }] = useDisclosure(false)
  const [says, setSays] = useState('')
  const ask = useMutation({
    mutationFn: () =>
      answer(api.POST('/reports/{report}/requests', { params: { path: { report } }, body: { says } })),
    onSuccess: close,
  })
  if (ask.isSuccess) return <span role="status">asked for; you are told on your desk</span>
  return (
    <>
      <button type="button" className="act" aria-label={`Ask for ${title}`} onClick={open}>
        Ask for it
      </button>
      <Modal opened={opened} onClose={close} title={`Ask for ${title}`}>
        <Textarea
          label="What you need it for"
          description="those who may open it read this"
          autosize
          minRows={3}
          maxLength={1000}
          value={says}
          onChange={e => setSays(e.currentTarget.value)}
          data-autofocus
        />
        {ask.error && <p role="alert">{ask.error.message}</p>}
        <Group justify="flex-end" mt="md">
          <Button loading={ask.isPending} onClick={() => ask.mutate()}>
            Ask
          </Button>
        </Group>
      </Modal>
    </>
  )
}
