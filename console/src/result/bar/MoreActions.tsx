import { Button, Menu } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useNavigate } from 'react-router'
import type { Result } from '../../api/client'
import { RemoveDialog } from '../../parts/RemoveDialog'
import { useDeleteResult } from '../../results/useDeleteResult'
import { useMayChange } from '../../signin/session'
import type { Named } from './ResultBar'

type Props = { result: Result; onSide: (side: Named) => void }

/** What is done with a result more rarely. */
export function MoreActions({ result: r, onSide }: Props) {
  const navigate = useNavigate()
  const mayChange = useMayChange()
  const [asked, { open: ask, close }] = useDisclosure(false)
  const deletion = useDeleteResult(r.id, r.title)
  return (
    <>
      <Menu position="bottom-end" shadow="md" withInitialFocusPlaceholder={false}>
        <Menu.Target>
          <Button size="compact-sm" variant="subtle" color="gray">
            More
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onSide('complete')}>Completeness</Menu.Item>
          <Menu.Item onClick={() => onSide('origin')}>Meanings</Menu.Item>
          <Menu.Item onClick={() => onSide('row')}>Row in hand</Menu.Item>
          {mayChange(r.askedBy) && <Menu.Item onClick={ask}>Delete</Menu.Item>}
        </Menu.Dropdown>
      </Menu>
      <RemoveDialog
        {...deletion}
        opened={asked}
        onClose={close}
        onRemove={() => deletion.onRemove().then(() => navigate('/results'))}
      />
    </>
  )
}
