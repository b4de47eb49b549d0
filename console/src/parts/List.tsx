import type { ReactNode } from 'react'
import { About } from '../app/About'
import { moveFocus } from './moveFocus'
import classes from './List.module.css'
import { Heading } from './Heading'
import { Rows } from './Rows'

type Props = {
  title: string
  /** It stands below another list of the place. */
  further?: boolean
  tools?: ReactNode
  heads: string[]
  /** Places of the columns whose cells end at the right. */
  right?: number[]
  /** Shown instead of the table when it is given. */
  empty?: ReactNode
  children: ReactNode
}

/** A titled table of things that were made: runs, results. Arrows move among its first links. */
export function List({ title, further, tools, heads, right, empty, children }: Props) {
  return (
    <section className={classes.page}>
      <header className={classes.head} data-acts>
        {further ? (
          <h2 className={classes.title}>{title}</h2>
        ) : (
          <Heading className={classes.title} title={title} />
        )}
        {tools}
      </header>
      {!further && <About className={classes.about} />}
      {empty || (
        <div className={classes.rows}>
          <Rows heads={heads} right={right} onKeyDown={e => moveFocus(e, 'td:first-child a')}>
            {children}
          </Rows>
        </div>
      )}
    </section>
  )
}
