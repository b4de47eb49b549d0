import { Button, Menu } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useNavigate } from 'react-router'
import type { Result } from '../../api/client'
import { RemoveDialog } from '../../parts/RemoveDialog'
import { useDeleteResult } from '../../results/useDeleteResult'
import { useMayChange, useRight } from '../../signin/session'
import { ComeAgain } from './ComeAgain'
import type { Named } from './ResultBar'
import classes from './ResultBar.module.css'

type Props = { result: Result; view: string | undefined; onSide: (side: Named) => void }

/** What is done with a result more rarely. */
export function MoreActions({ result: r, view, onSide }: Props) {
  const navigate = useNavigate()
  const mayChange = useMayChange()
  const [asked, { open: ask, close }] = useDisclosure(false)
  const mayRun = useRight('run')
  const [timing, timed] = useDisclosure(false)
  const deletion = useDeleteResult(r.id, r.title)
  return (
    <>
      <Menu position="bottom-end" shadow="md" withInitialFocusPlaceholder={false} keepMounted>
        <Menu.Target>
          <Button className={classes.more} size="compact-sm" variant="subtle" color="gray">
            More
          </Button>
        </Menu.Target>
        <Menu.Dropdown data-acts>
          {mayRun && !r.made && <Menu.Item onClick={timed.open}>Let it come by itself</Menu.Item>}
          <Menu.Item onClick={() => onSide('complete')}>Completeness</Menu.Item>
          <Menu.Item onClick={() => onSide('origin')}>Meanings</Menu.Item>
          <Menu.Item onClick={() => onSide('row')}>Row in hand</Menu.Item>
          {mayChange(r.askedBy) && <Menu.Item onClick={ask}>Delete</Menu.Item>}
        </Menu.Dropdown>
      </Menu>
      <ComeAgain result={r} view={view} opened={timing} onClose={timed.close} />
      <RemoveDialog
        {...deletion}
        opened={asked}
        onClose={close}
        onRemove={() => deletion.onRemove().then(() => navigate('/results'))}
      />
    </>
  )
}
