import { Button, Group, Modal, Select } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas, type Who } from '../api/client'

type Ways = Schemas['Ways']
type Props = { who: Who; onClose: () => void }

const choices: { way: keyof Ways; label: string; data: [string, string][] }[] = [
  {
    way: 'opens',
    label: 'The console opens with',
    data: [
      ['', 'the desk'],
      ['catalog', 'the catalog'],
      ['controls', 'run controls'],
      ['runs', 'runs'],
      ['results', 'results'],
    ],
  },
  {
    way: 'density',
    label: 'Lines of sheets stand',
    data: [
      ['', 'roomy'],
      ['close', 'close'],
    ],
  },
  {
    way: 'scheme',
    label: 'Its colours are',
    data: [
      ['', 'as this machine is'],
      ['light', 'light'],
      ['dark', 'dark'],
    ],
  },
  {
    way: 'week',
    label: 'A week begins on',
    data: [
      ['', 'Monday'],
      ['sunday', 'Sunday'],
      ['saturday', 'Saturday'],
    ],
  },
  {
    way: 'numbers',
    label: 'Numbers are written',
    data: [
      ['', 'as the languages of this browser have it'],
      ['comma', '1,234.5'],
      ['dot', '1.234,5'],
      ['space', '1 234,5'],
      ['apostrophe', '1’234.5'],
    ],
  },
  {
    way: 'days',
    label: 'Days are written',
    data: [
      ['', '30 Sep 2026'],
      ['dots', '30.09.2026'],
      ['slashes', '30/09/2026'],
      ['month-first', '09/30/2026'],
      ['iso', '2026-09-30'],
    ],
  },
]

/** How a person likes the console, and the zone in which moments are said to them. */
export function Preferences({ who, onClose }: Props) {
  const [zone, setZone] = useState(who.ownZone ? who.zone : '')
  const [ways, setWays] = useState(who.ways)
  const set = useMutation({
    mutationFn: async () => {
      await answer(api.PUT('/session/zone', { body: { zone } }))
      return answer(api.PUT('/session/ways', { body: ways }))
    },
    onSuccess: () => window.location.reload(), // every moment in sight is said anew
  })
  return (
    <Modal opened onClose={onClose} title="Preferences">
      <form onSubmit={e => (e.preventDefault(), set.mutate())}>
        {choices.map((c, i) => (
          <Select
            key={c.way}
            mb="sm"
            label={c.label}
            data-way={c.way}
            data={c.data.map(([value, label]) => ({ value, label }))}
            allowDeselect={false}
            value={ways[c.way] ?? ''}
            onChange={v => setWays({ ...ways, [c.way]: v || undefined })}
            data-autofocus={i === 0 || undefined}
          />
        ))}
        <Select
          label="Moments are said to you in"
          data-way="zone"
          description="When something ran, was kept or is due. Days and hours within results stay those of the organisation."
          data={[
            { value: '', label: 'the zone of the organisation' },
            ...Intl.supportedValuesOf('timeZone').map(z => ({ value: z, label: z })),
          ]}
          searchable
          limit={100}
          allowDeselect={false}
          value={zone}
          onChange={z => setZone(z ?? '')}
          error={set.error?.message}
        />
        <Group mt="md">
          <Button type="submit" loading={set.isPending}>
            Set them
          </Button>
        </Group>
      </form>
    </Modal>
  )
}
