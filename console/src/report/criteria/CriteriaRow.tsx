import { ActionIcon, Menu, Modal, Button, TextInput } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Criteria } from '../../api/client'
import { count, moment } from '../../parts/said'
import { EarlierValues } from './EarlierValues'
import classes from './CriteriaPanel.module.css'
import { below } from '../../api/below'

type Props = {
  criteria: Criteria
  loaded: boolean
  onLoad: () => void
  onChanged: () => void
  onDeleted: () => void
}

/** One set of criteria: what it comes to today, whose it is, when it last ran. */
export function CriteriaRow({ criteria: c, loaded, onLoad, onChanged, onDeleted }: Props) {
  const [renaming, { open, close }] = useDisclosure(false)
  const [looking, past] = useDisclosure(false)
  const [name, setName] = useState(c.name)
  const path = { criteria: c.id }
  const rename = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/criteria/{criteria}', {
          params: { path, header: { 'If-Match': String(c.revision) } },
          body: { name, shared: c.shared, values: c.values },
        }),
      ),
    onSuccess: () => (close(), onChanged()),
  })
  const usual = useMutation({
    mutationFn: () =>
      answer(
        c.usual
          ? api.DELETE('/criteria/{criteria}/usual', { params: { path } })
          : api.PUT('/criteria/{criteria}/usual', { params: { path } }),
      ),
    onSuccess: onChanged,
  })
  const remove = useMutation({
    mutationFn: () => answer(api.DELETE('/criteria/{criteria}', { params: { path } })),
    onSuccess: onDeleted,
  })
  return (
    <li className={classes.row} data-criteria={c.name} data-loaded={loaded || undefined}>
      <div className={classes.line}>
        <button type="button" className={classes.name} onClick={onLoad}>
          {c.name}
        </button>
        {c.usual && <span className={classes.usual}>my usual</span>}
        <Menu position="bottom-end" shadow="md">
          <Menu.Target>
            <ActionIcon size="sm" variant="subtle" aria-label={`More for ${c.name}`}>
              ⋯
            </ActionIcon>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => usual.mutate()}>
              {c.usual ? 'No longer my usual' : 'Make it my usual'}
            </Menu.Item>
            <Menu.Item
              onClick={() =>
                navigator.clipboard.writeText(
                  `${location.origin}${below}/reports/${c.report}?criteria=${c.id}`,
                )
              }
            >
              Copy a link
            </Menu.Item>
            {c.mine && <Menu.Item onClick={open}>Rename</Menu.Item>}
            {c.mine && <Menu.Item onClick={past.open}>Earlier values</Menu.Item>}
            {c.mine && (
              <Menu.Item color="brick" onClick={() => remove.mutate()}>
                Delete
              </Menu.Item>
            )}
          </Menu.Dropdown>
        </Menu>
      </div>
      {c.unfit.length > 0 ? (
        <>
          {c.unfit.map(u => (
            <p key={u} className={classes.unfit}>
              No longer fits: {u}
            </p>
          ))}
          {c.mine && (
            <button type="button" className="act" onClick={onLoad}>
              Load, mend and keep again
            </button>
          )}
        </>
      ) : (
        <p className={classes.today}>{c.sentence}</p>
      )}
      <p className={classes.past}>
        {c.mine ? 'mine' : c.owner}
        {c.shared && `, shared with ${c.shared}`};{' '}
        {c.lastRun
          ? `last ran ${moment(c.lastRun)}${c.lastRows === undefined ? '' : `, ${count(c.lastRows, 'row', 'rows')}`}`
          : 'never ran'}
      </p>
      <Modal opened={looking} onClose={past.close} title={`Earlier values of “${c.name}”`} size="lg">
        {looking && <EarlierValues criteria={c} onRestored={() => (past.close(), onChanged())} />}
      </Modal>
      <Modal opened={renaming} onClose={close} title={`Rename “${c.name}”`}>
        <form onSubmit={e => (e.preventDefault(), rename.mutate())}>
          <TextInput
            aria-label="New name"
            value={name}
            onChange={e => setName(e.currentTarget.value)}
            error={rename.error?.message}
            data-autofocus
          />
          <Button type="submit" mt="md" loading={rename.isPending}>
            Rename
          </Button>
        </form>
      </Modal>
    </li>
  )
}
