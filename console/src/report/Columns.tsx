import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Origin } from '../parts/Origin'
import classes from './ReportSide.module.css'

type Props = { report: string }

/** The columns of a report: a press tells what one means and where it comes from. */
export function Columns({ report }: Props) {
  const [opened, setOpened] = useState<string>()
  const origin = useQuery({
    queryKey: ['origin', report],
    queryFn: () => answer(api.GET('/reports/{report}/columns', { params: { path: { report } } })),
  })
  return (
    <section>
      <h2>Columns</h2>
      <ul className={classes.columns}>
        {origin.data?.columns.map(c => {
          const key = `${c.dataset}.${c.id}`
          return (
            <li key={key}>
              <button
                type="button"
                className="act"
                aria-expanded={opened === key}
                onClick={() => setOpened(opened === key ? undefined : key)}
              >
                {c.heading}
              </button>
              {c.term && opened !== key && <span className="dim"> {c.term.name.toLowerCase()}</span>}
              {opened === key && <Origin column={c} />}
            </li>
          )
        })}
      </ul>
    </section>
  )
}
