import type { ReactNode } from 'react'
import classes from './State.module.css'
import { Heading } from './Heading'

type Props = {
  title: string
  said?: string
  /** What can be done about it. */
  next?: ReactNode
  /** It is all that the place shows. */
  alone?: boolean
}

/** A designed state of a place that has nothing else to show: empty, failed, lost. */
export function State({ title, said, next, alone }: Props) {
  return (
    <section className={classes.state} role="status">
      {alone ? (
        <Heading className={classes.title} title={title} />
      ) : (
        <h2 className={classes.title}>{title}</h2>
      )}
      {said && <p className={classes.said}>{said}</p>}
      {next}
    </section>
  )
}
