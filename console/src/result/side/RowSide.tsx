import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { WriteNote } from '../keeping/WriteNote'
import { query, type Reading } from '../reading'
import classes from './Side.module.css'
import { number } from '../../parts/form'

type Props = { result: string; view: string; reading: Reading; row: number }

/** All fields of the row in hand. */
export function RowSide({ result, view, reading, row }: Props) {
  const fields = useQuery({
    queryKey: ['row', result, view, reading.add, row],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/row', {
          params: { path: { result, view }, query: { add: query(reading).add, number: row } },
        }),
      ),
    staleTime: Infinity,
    placeholderData: old => old,
  })
  return (
    <aside className={classes.side} data-row-side>
      <h2>Row {number(row + 1)} as kept</h2>
      {fields.error && <p className={classes.bad}>{fields.error.message}</p>}
      <dl>
        {fields.data?.map(f => (
          <div key={f.id}>
            <dt>{f.heading}</dt>
            <dd>{f.text ?? <span className="dim">no value</span>}</dd>
          </div>
        ))}
      </dl>
      <WriteNote result={result} row={{ view, row }} onDone={() => undefined} />
    </aside>
  )
}
