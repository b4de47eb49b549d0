import { Button, FileInput, Group, Modal, Select, Text, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, type Result } from '../../api/client'
import { moment } from '../../parts/said'

type Props = { result: Result; onClose: () => void }

/** Holds a result against a statement: one that is kept, or a file that is brought for it. */
export function ReconcileDialog({ result, onClose }: Props) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const report = { path: { report: result.report } }
  const [chosen, setChosen] = useState<string | null>(null)
  const [declared, setDeclared] = useState<string | null>(null)
  const [file, setFile] = useState<File | null>(null)
  const [until, setUntil] = useState<string>()
  const [earlier, setEarlier] = useState<string | null>(null)
  const statements = useQuery({
    queryKey: ['statements', result.report],
    queryFn: () => answer(api.GET('/reports/{report}/statements', { params: report })),
  })
  const results = useQuery({
    queryKey: ['results', { report: result.report, limit: 200 }],
    queryFn: () => answer(api.GET('/results', { params: { query: { report: result.report, limit: 200 } } })),
  })
  const before = results.data?.filter(r => r.how === 'reconcile') ?? []
  const kept = statements.data?.kept ?? []
  const several = (statements.data?.declared.length ?? 0) > 1
  const statement = kept.find(s => s.id === chosen)
  const bring = useMutation({
    mutationFn: (f: File) =>
      answer(
        api.POST('/reports/{report}/statements', {
          params: { ...report, query: { name: f.name, ...(declared ? { as: declared } : {}) } },
          body: f as unknown as string,
          bodySerializer: b => b,
          headers: { 'Content-Type': 'application/octet-stream' },
        }),
      ),
    onSuccess: async s => {
      await client.invalidateQueries({ queryKey: ['statements', result.report] })
      setChosen(s.id)
      setUntil(undefined)
    },
  })
  const reconcile = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/reconciliations', {
          body: {
            result: result.id,
            statement: chosen!,
            ...(until ? { until } : {}),
            ...(earlier ? { earlier } : {}),
          },
        }),
      ),
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  const error = bring.error ?? reconcile.error
  return (
    <Modal opened onClose={onClose} title={`Reconcile ${result.id}`} size="lg">
      <form onSubmit={e => (e.preventDefault(), reconcile.mutate())}>
        {several && (
          <Select
            label="Statement"
            data={statements.data!.declared.map(d => ({ value: d.id, label: d.title }))}
            value={declared}
            onChange={setDeclared}
          />
        )}
        <FileInput
          label="Bring a file"
          description="CSV, XLSX or camt.053; how it is read, the report declares."
          placeholder="Choose a file"
          clearable
          disabled={bring.isPending || (several && !declared)}
          value={file}
          onChange={f => {
            setFile(f)
            bring.reset()
            if (f) bring.mutate(f)
          }}
        />
        <Select
          mt="sm"
          label="With the statement"
          placeholder={kept.length === 0 ? 'none is kept yet' : 'choose one'}
          searchable
          nothingFoundMessage="Nothing of that name."
          data={kept.map(s => ({
            value: s.id,
            label: `${s.id}: ${s.name}, ${s.first} to ${s.until}, ${s.lines} lines`,
          }))}
          value={chosen}
          onChange={id => (setChosen(id), setUntil(undefined))}
        />
        {statement && (
          <TextInput
            mt="sm"
            label="Which covers the days until"
            description="As it says itself, or by its last line; later where it was quiet at the end."
            value={until ?? statement.until}
            onChange={e => setUntil(e.currentTarget.value)}
          />
        )}
        <Select
          mt="sm"
          label="Bring on what was left open in"
          placeholder="nothing"
          clearable
          data={before.map(r => ({ value: r.id, label: `${r.id} of ${moment(r.keptAt)}: ${r.sentence}` }))}
          value={earlier}
          onChange={setEarlier}
        />
        {error && (
          <Text size="sm" c="red" mt="sm" role="alert">
            {error.message}
          </Text>
        )}
        <Group justify="flex-end" mt="md">
          <Button type="submit" disabled={!chosen} loading={reconcile.isPending}>
            Reconcile
          </Button>
        </Group>
      </form>
    </Modal>
  )
}
