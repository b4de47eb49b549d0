import { Button, Group, SegmentedControl, Select, TextInput } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Tile } from '../api/client'

type Props = { tile: Tile | undefined; error: Error | null; onKeep: (tile: Tile) => void }

const fresh: Tile = { control: '', step: 1, view: '', show: 'figure' }

/** What a tile shows: of which run control and report, which view, as what. */
export function TileForm({ tile, error, onKeep }: Props) {
  const [t, setTile] = useState(tile ?? fresh)
  const set = (part: Partial<Tile>) => setTile({ ...t, ...part })
  const controls = useQuery({ queryKey: ['controls', ''], queryFn: () => answer(api.GET('/controls')) })
  const control = controls.data?.find(c => c.id === t.control)
  const report = control?.steps[t.step - 1]?.report
  const about = useQuery({
    queryKey: ['report', report],
    queryFn: () => answer(api.GET('/reports/{report}', { params: { path: { report: report! } } })),
    enabled: Boolean(report),
  })
  const parts = useQuery({
    queryKey: ['control-runs', t.control],
    queryFn: () =>
      answer(
        api.GET('/controls/{control}/runs', {
          params: { path: { control: t.control }, query: { limit: 60 } },
        }),
      ),
    enabled: t.control !== '',
  })
  const result = useQuery({
    queryKey: ['result', t.result],
    queryFn: () => answer(api.GET('/results/{result}', { params: { path: { result: t.result! } } })),
    enabled: Boolean(t.result),
  })
  const views = t.result ? result.data?.views : about.data?.views
  const names = [...new Set(parts.data?.map(r => r.part ?? '').filter(Boolean))].sort()
  return (
    <form onSubmit={e => (e.preventDefault(), onKeep(t))}>
      {t.result && <p className="dim">Of {t.result}, which stays.</p>}
      {!t.result && (
        <Select
          label="Run control"
          searchable
          data={controls.data?.map(c => ({ value: c.id, label: c.title })) ?? []}
          value={t.control || null}
          onChange={c => set({ control: c ?? '', step: 1, view: '', part: undefined })}
          data-autofocus
        />
      )}
      {(control?.steps.length ?? 0) > 1 && (
        <Select
          mt="sm"
          label="Report"
          allowDeselect={false}
          data={control!.steps.map((s, i) => ({ value: String(i + 1), label: s.report }))}
          value={String(t.step)}
          onChange={s => set({ step: Number(s), view: '' })}
        />
      )}
      {names.length > 0 && (
        <Select
          mt="sm"
          label="Part"
          data={names}
          value={t.part ?? null}
          onChange={p => set({ part: p ?? undefined })}
          placeholder="the whole"
          clearable
        />
      )}
      <Select
        mt="sm"
        label="View"
        disabled={!views}
        data={views?.map(v => ({ value: v.id, label: v.title })) ?? []}
        value={t.view || null}
        onChange={v => set({ view: v ?? '' })}
      />
      <SegmentedControl
        mt="sm"
        fullWidth
        size="xs"
        aria-label="Shown as"
        data={[
          { value: 'figure', label: 'figure' },
          { value: 'chart', label: 'chart' },
          { value: 'table', label: 'short table' },
        ]}
        value={t.show}
        onChange={s => set({ show: s as Tile['show'] })}
      />
      {t.show === 'figure' && (
        <TextInput
          mt="sm"
          name="measure"
          label="Measure"
          description="a column of the view with a total, or a formula such as sum(value)"
          value={t.measure ?? ''}
          onChange={e => set({ measure: e.currentTarget.value })}
        />
      )}
      <TextInput
        mt="sm"
        name="tile-title"
        label="Title"
        placeholder="the report's"
        value={t.title ?? ''}
        onChange={e => set({ title: e.currentTarget.value || undefined })}
      />
      <Group mt="sm" grow>
        {(['width', 'height'] as const).map(side => (
          <Select
            key={side}
            label={side === 'width' ? 'Quarters across' : 'Lines down'}
            data-side={side}
            allowDeselect={false}
            data={['as it suits', '1', '2', '3', '4']}
            value={t[side] ? String(t[side]) : 'as it suits'}
            onChange={n => set({ [side]: Number(n) || undefined })}
          />
        ))}
      </Group>
      {error && (
        <p className="told" role="alert">
          {error.message}
        </p>
      )}
      <Button
        mt="md"
        type="submit"
        disabled={(!t.control && !t.result) || !t.view || (t.show === 'figure' && !t.measure)}
      >
        Keep
      </Button>
    </form>
  )
}
