import { Button, Group, Modal, Text, Textarea } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'

type Props = { report: string; result?: string }

/** Writes to those who keep a report, of it or of a result. */
export function WriteTo({ report, result }: Props) {
  const [opened, { open, close }] = useDisclosure(false)
  const [says, setSays] = useState('')
  const write = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/reports/{report}/feedback', { params: { path: { report } }, body: { says, result } }),
      ),
    onSuccess: () => setSays(''),
  })
  return (
    <>
      <button type="button" className="act" onClick={() => (write.reset(), open())}>
        Write to its keepers
      </button>
      <Modal opened={opened} onClose={close} title={result ? `About ${result}` : 'About this report'}>
        {write.isSuccess ? (
          <Text role="status">It is sent. The answer comes to your desk.</Text>
        ) : (
          <>
            <Textarea
              label="What you want to say"
              value={says}
              onChange={e => setSays(e.currentTarget.value)}
              autosize
              minRows={4}
              maxLength={2000}
              data-autofocus
            />
            {write.error && (
              <Text c="var(--alert)" role="alert">
                {write.error.message}
              </Text>
            )}
            <Group justify="flex-end" mt="md">
              <Button disabled={!says.trim()} loading={write.isPending} onClick={() => write.mutate()}>
                Send
              </Button>
            </Group>
          </>
        )}
      </Modal>
    </>
  )
}
