import { useDisclosure } from '@mantine/hooks'
import { RemoveDialog } from './RemoveDialog'

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
  return (
    <>
      <button type="button" className="act" aria-label={`${word} ${name}`} onClick={ask}>
        {word}
      </button>
      <RemoveDialog name={name} says={says} word={word} onRemove={onRemove} opened={open} onClose={close} />
    </>
  )
}
