import { Select } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { Origin } from '../../parts/Origin'
import classes from './Side.module.css'

type Props = {
  result: string
  /** The column that was asked for, DATASET.COLUMN; the first where none was. */
  of: string | undefined
  onOf: (column: string) => void
}

/** What each column of a result means, and where its figures come from. */
export function OriginSide({ result, of, onOf }: Props) {
  const origin = useQuery({
    queryKey: ['origin', result],
    queryFn: () => answer(api.GET('/results/{result}/columns', { params: { path: { result } } })),
    staleTime: 60_000,
  })
  const columns = origin.data?.columns ?? []
  const datasets = [...new Set(columns.map(c => c.dataset))]
  const key = of ?? (columns[0] ? `${columns[0].dataset}.${columns[0].id}` : null)
  const column = columns.find(c => `${c.dataset}.${c.id}` === key)
  return (
    <aside className={classes.side} data-origin>
      <h2>Where figures come from</h2>
      {origin.error && <p className={classes.bad}>{origin.error.message}</p>}
      <Select
        size="xs"
        mb="sm"
        label="Column"
        searchable
        allowDeselect={false}
        data={datasets.map(d => ({
          group: d,
          items: columns
            .filter(c => c.dataset === d)
            .map(c => ({ value: `${c.dataset}.${c.id}`, label: c.heading })),
        }))}
        value={key}
        onChange={to => to && onOf(to)}
      />
      {column && (
        <Origin
          column={column}
          statement={origin.data!.statements.find(s => s.dataset === column.dataset)}
          onColumn={id => onOf(`${column.dataset}.${id}`)}
        />
      )}
      {origin.data?.unknown && <p className="dim">{origin.data.unknown}</p>}
    </aside>
  )
}
