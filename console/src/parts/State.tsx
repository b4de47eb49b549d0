import type { ReactNode } from 'react'
import classes from './State.module.css'

type Props = {
  title: string
  said?: string
  /** What can be done about it. */
  next?: ReactNode
}

/** A designed state of a place that has nothing else to show: empty, failed, lost. */
export function State({ title, said, next }: Props) {
  return (
    <section className={classes.state} role="status">
      <h2 className={classes.title}>{title}</h2>
      {said && <p className={classes.said}>{said}</p>}
      {next}
    </section>
  )
}
