import { useDisclosure } from '@mantine/hooks'
import { offerUndo } from '../trash/undo'
import { RemoveDialog } from './RemoveDialog'

type Props = {
  /** What is deleted, as the question names it. */
  name: string
  /** What that means. */
  says: string
  onRemove: () => Promise<unknown>
  /** What brings it back, where something does. */
  undo?: (() => Promise<unknown>) | undefined
  /** The word of the button that asks, and of the one that does it. */
  word?: string
}

/** Deletes something, once it was made clear what that means. */
export function Remove({ name, says, onRemove, undo, word = 'Delete' }: Props) {
  const remove = async () => {
    await onRemove()
    if (undo) offerUndo({ id: name, says: `“${name}” is deleted.`, undo })
  }
  const [open, { open: ask, close }] = useDisclosure(false)
  return (
    <>
      <button type="button" className="act rare" aria-label={`${word} ${name}`} onClick={ask}>
        {word}
      </button>
      <RemoveDialog name={name} says={says} word={word} onRemove={remove} opened={open} onClose={close} />
    </>
  )
}
