import { Button, Group } from '@mantine/core'
import classes from './DraftPage.module.css'
import type { Drafting } from './useDraft'

type Props = { drafting: Drafting; onTake: (text: string) => void }

/** Shows both texts when somebody else changed the draft meanwhile; one of them is chosen. */
export function Theirs({ drafting, onTake }: Props) {
  const theirs = drafting.theirs!
  return (
    <section className={classes.theirs} role="alert">
      <h2>{theirs.line.changedBy} changed this draft meanwhile</h2>
      <div className={classes.both}>
        <div>
          <h3>Yours, which is not kept</h3>
          <pre>{drafting.text}</pre>
        </div>
        <div>
          <h3>Theirs, which is kept</h3>
          <pre>{theirs.text}</pre>
        </div>
      </div>
      <Group>
        <Button onClick={() => drafting.settle(true)}>Keep mine over theirs</Button>
        <Button
          variant="default"
          onClick={() => {
            onTake(theirs.text)
            drafting.settle(false)
          }}
        >
          Take theirs
        </Button>
      </Group>
    </section>
  )
}
