import { Button, Group, Modal, MultiSelect, Select, Text } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, type Schemas } from '../../api/client'
import { moment } from '../../parts/said'
import { DatasetSelect } from './DatasetSelect'

type Side = Schemas['ComparedSide']

type Props = {
  report: string
  /** What is compared: a result, or values that are run for it. */
  side: Side
  /** How that is called. */
  name: string
  onClose: () => void
}

/** Chooses the other side of a comparison: a kept result of any report, or criteria that are run for it. */
export function CompareDialog({ report, side, name, onClose }: Props) {
  const navigate = useNavigate()
  const [chosen, setChosen] = useState<string | null>(null)
  const [key, setKey] = useState<string[]>([])
  const [of, setOf] = useState(report)
  const [dataset, setDataset] = useState<string | null>(null)
  const [otherDataset, setOtherDataset] = useState<string | null>(null)
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const results = useQuery({
    queryKey: ['results', { report: of, limit: 200 }],
    queryFn: () => answer(api.GET('/results', { params: { query: { report: of, limit: 200 } } })),
  })
  const criteria = useQuery({
    queryKey: ['criteria', of, 'to compare'],
    queryFn: () =>
      answer(
        api.GET('/reports/{report}/criteria', { params: { path: { report: of }, query: { limit: 50 } } }),
      ),
  })
  const columns = useQuery({
    queryKey: ['columns of', report],
    queryFn: () => answer(api.GET('/reports/{report}/columns', { params: { path: { report } } })),
  })
  const others = results.data?.filter(r => !r.how && r.id !== side.result) ?? []
  const known = results.data !== undefined && criteria.data !== undefined
  const choices = [
    {
      group: 'Kept results',
      items: others.map(r => ({ value: r.id, label: `${r.id} of ${moment(r.keptAt)}: ${r.sentence}` })),
    },
    {
      group: 'Criteria, which are run for it',
      items: (criteria.data ?? []).map(c => ({ value: c.id, label: `${c.name}: ${c.sentence}` })),
    },
  ].filter(g => g.items.length > 0)
  const compare = useMutation({
    mutationFn: () => {
      const own = criteria.data?.find(c => c.id === chosen)
      const here = { ...side, dataset: dataset ?? undefined }
      const other: Side = {
        ...(own ? { report: of, values: own.values } : { result: chosen! }),
        dataset: (of === report ? dataset : otherDataset) ?? undefined,
      }
      // The younger side is the later one, whichever was chosen first.
      const later = side.result !== undefined && chosen! > side.result && !own
      return answer(
        api.POST('/comparisons', {
          body: { before: later ? here : other, after: later ? other : here, key },
        }),
      )
    },
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  return (
    <Modal opened onClose={onClose} title={`Compare ${name}`} size="lg">
      <form onSubmit={e => (e.preventDefault(), compare.mutate())}>
        <Select
          label="Report of the other side"
          searchable
          allowDeselect={false}
          data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
          value={of}
          onChange={id => (setOf(id ?? report), setChosen(null), setOtherDataset(null))}
        />
        {known && choices.length === 0 ? (
          <Text mt="sm">
            Nothing else is kept of this report, and there are no criteria for it: run it with other values
            first.
          </Text>
        ) : (
          <Select
            mt="sm"
            label="With"
            data-with
            searchable
            nothingFoundMessage="Nothing of that name."
            data={choices}
            value={chosen}
            onChange={setChosen}
          />
        )}
        <DatasetSelect
          report={report}
          label={of === report ? 'Dataset' : `Dataset of ${name}`}
          value={dataset}
          onChange={setDataset}
        />
        {of !== report && (
          <DatasetSelect
            report={of}
            label="Dataset of the other"
            value={otherDataset}
            onChange={setOtherDataset}
          />
        )}
        <MultiSelect
          mt="sm"
          label="Rows are found by"
          placeholder={key.length === 0 ? 'the key of the report' : undefined}
          searchable
          data={[
            ...new Map(columns.data?.columns.map(c => [c.id, { value: c.id, label: c.heading }])).values(),
          ]}
          value={key}
          onChange={setKey}
        />
        <Text size="sm" mt="sm" c="dimmed">
          What changed becomes a result of its own: rows that are only on one side, rows with other cells, and
          the sums of both sides.
        </Text>
        {compare.error && (
          <Text size="sm" c="red" mt="sm" role="alert">
            {compare.error.message}
          </Text>
        )}
        <Group justify="flex-end" mt="md">
          <Button type="submit" disabled={!chosen} loading={compare.isPending}>
            Compare
          </Button>
        </Group>
      </form>
    </Modal>
  )
}
