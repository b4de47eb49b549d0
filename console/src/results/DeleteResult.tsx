import { Button, Group, Modal, Text } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'

type Props = { result: string; title: string; after?: () => void }

/** Deletes a result, once it was made clear that it does not come back. */
export function DeleteResult({ result, title, after }: Props) {
  const [open, { open: ask, close }] = useDisclosure(false)
  const client = useQueryClient()
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE('/results/{result}', { params: { path: { result } } })),
    onSuccess: () => {
      client.invalidateQueries({ queryKey: ['results'] })
      close()
      after?.()
    },
  })
  return (
    <>
      <button className="act" onClick={ask}>Delete</button>
      <Modal opened={open} onClose={close} title={`Delete ${result}?`}>
        <Text>{title} with all its rows is deleted and cannot be brought back.</Text>
        {remove.error && <Text c="var(--alert)">{remove.error.message}</Text>}
        <Group justify="flex-end" mt="md">
          <Button variant="default" onClick={close} data-autofocus>Keep it</Button>
          <Button color="brick" loading={remove.isPending} onClick={() => remove.mutate()}>Delete it</Button>
        </Group>
      </Modal>
    </>
  )
}
