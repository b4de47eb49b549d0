import { Select } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../../api/client'

type Props = {
  report: string
  label: string
  value: string | null
  onChange: (dataset: string | null) => void
}

/** Chooses a dataset of a report, where it has several. */
export function DatasetSelect({ report, label, value, onChange }: Props) {
  const columns = useQuery({
    queryKey: ['columns of', report],
    queryFn: () => answer(api.GET('/reports/{report}/columns', { params: { path: { report } } })),
  })
  const datasets = [...new Set(columns.data?.columns.map(c => c.dataset))]
  if (datasets.length < 2) return null
  return (
    <Select
      mt="sm"
      label={label}
      data-dataset
      placeholder="that of the view which opens first"
      clearable
      data={datasets}
      value={value}
      onChange={onChange}
    />
  )
}
