import { Button, Group, Modal, Text } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'

type Props = {
  /** What is deleted, as the question names it. */
  name: string
  /** What that means. */
  says: string
  onRemove: () => Promise<unknown>
  /** The word of the button that does it. */
  word?: string
  opened: boolean
  onClose: () => void
}

/** Asks whether something is to be deleted, and makes clear what that means. */
export function RemoveDialog({ name, says, onRemove, word = 'Delete', opened, onClose }: Props) {
  const remove = useMutation({ mutationFn: onRemove, onSuccess: onClose })
  return (
    <Modal opened={opened} onClose={onClose} title={`${word} ${name}?`}>
      <Text>{says}</Text>
      {remove.error && (
        <Text c="var(--alert)" role="alert">
          {remove.error.message}
        </Text>
      )}
      <Group justify="flex-end" mt="md">
        <Button variant="default" onClick={onClose} data-autofocus>
          Keep it
        </Button>
        <Button color="brick" loading={remove.isPending} onClick={() => remove.mutate()}>
          {word} it
        </Button>
      </Group>
    </Modal>
  )
}
