import { Button, Group, Modal, Text } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'

type Props = {
  /** What is deleted, as the question names it. */
  name: string
  /** What that means. */
  says: string
  onRemove: () => Promise<unknown>
  /** The word of the button that asks, and of the one that does it. */
  word?: string
}

/** Deletes something, once it was made clear what that means. */
export function Remove({ name, says, onRemove, word = 'Delete' }: Props) {
  const [open, { open: ask, close }] = useDisclosure(false)
  const remove = useMutation({ mutationFn: onRemove, onSuccess: close })
  return (
    <>
      <button type="button" className="act" aria-label={`${word} ${name}`} onClick={ask}>
        {word}
      </button>
      <Modal opened={open} onClose={close} title={`${word} ${name}?`}>
        <Text>{says}</Text>
        {remove.error && (
          <Text c="var(--alert)" role="alert">
            {remove.error.message}
          </Text>
        )}
        <Group justify="flex-end" mt="md">
          <Button variant="default" onClick={close} data-autofocus>
            Keep it
          </Button>
          <Button color="brick" loading={remove.isPending} onClick={() => remove.mutate()}>
            {word} it
          </Button>
        </Group>
      </Modal>
    </>
  )
}
