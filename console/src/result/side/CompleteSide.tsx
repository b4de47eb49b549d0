import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { query, type Change, type Reading } from '../reading'
import classes from './Side.module.css'
import { number } from '../../parts/form'

type Props = { result: string; view: string; reading: Reading; onChange: Change }

/** How many rows have no value, by column; a count leads to them. */
export function CompleteSide({ result, view, reading, onChange }: Props) {
  const filled = useQuery({
    queryKey: ['completeness', result, view, reading.filter, reading.add],
    queryFn: () =>
      answer(
        api.GET('/results/{result}/views/{view}/completeness', {
          params: {
            path: { result, view },
            query: { filter: query(reading).filter, add: query(reading).add },
          },
        }),
      ),
    staleTime: Infinity,
  })
  return (
    <aside className={classes.side} data-complete>
      <h2>Completeness</h2>
      {filled.error && <p className={classes.bad}>{filled.error.message}</p>}
      <table className={classes.complete}>
        <thead>
          <tr>
            <th scope="col">Column</th>
            <th scope="col">Empty</th>
            <th scope="col">Filled</th>
          </tr>
        </thead>
        <tbody>
          {filled.data?.map(f => (
            <tr key={f.id}>
              <th scope="row">{f.heading}</th>
              <td>
                {f.empty > 0 ? (
                  <button
                    type="button"
                    className="act"
                    onClick={() => onChange({ filter: [...reading.filter, `${f.id}=`] })}
                  >
                    {number(f.empty)}
                  </button>
                ) : (
                  '–'
                )}
              </td>
              <td>
                {f.rows > 0 && (
                  <>
                    <meter min={0} max={f.rows} value={f.rows - f.empty} aria-hidden />{' '}
                    {(100 - (100 * f.empty) / f.rows).toFixed(f.empty === 0 ? 0 : 1)} %
                  </>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </aside>
  )
}
