import { Button, Group, Modal, Select } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Who } from '../api/client'

type Props = { who: Who; onClose: () => void }

/** Sets the zone in which moments are said; figures and the days of rows stay in that of the organisation. */
export function TimeZone({ who, onClose }: Props) {
  const [zone, setZone] = useState(who.zone)
  const set = useMutation({
    mutationFn: (zone: string) => answer(api.PUT('/session/zone', { body: { zone } })),
    onSuccess: () => window.location.reload(), // every moment in sight is said anew
  })
  return (
    <Modal opened onClose={onClose} title="Time zone">
      <form onSubmit={e => (e.preventDefault(), set.mutate(zone))}>
        <Select
          label="Moments are said to you in"
          description="When something ran, was kept or is due. Days and hours within results stay those of the organisation."
          data={Intl.supportedValuesOf('timeZone')}
          searchable
          limit={100}
          allowDeselect={false}
          value={zone}
          onChange={z => z && setZone(z)}
          error={set.error?.message}
          data-autofocus
        />
        <Group mt="md">
          <Button type="submit" loading={set.isPending}>
            Set it
          </Button>
          {who.ownZone && (
            <Button variant="default" onClick={() => set.mutate('')}>
              That of the organisation
            </Button>
          )}
        </Group>
      </form>
    </Modal>
  )
}
