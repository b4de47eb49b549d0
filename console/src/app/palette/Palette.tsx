import { Modal, TextInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { useEffect, useEffectEvent, useRef, useState, type KeyboardEvent } from 'react'
import { useNavigate } from 'react-router'
import type { Who } from '../../api/client'
import classes from './Palette.module.css'
import { useThings, type Thing } from './things'

type Props = { who: Who; onClose: () => void }

/** Goes anywhere and does anything by its name: one types some letters of it and presses Enter. */
export function Palette({ who, onClose }: Props) {
  const navigate = useNavigate()
  const [typed, setTyped] = useState('')
  const [settled] = useDebouncedValue(typed, 130)
  const [at, setAt] = useState(0)
  const [pressed, setPressed] = useState(false)
  const { things, all } = useThings(who, typed, settled)
  const chosen = Math.min(at, things.length - 1)
  const before = useRef(document.activeElement)
  const leave = () => {
    onClose()
    if (before.current instanceof HTMLElement) before.current.focus()
  }
  const choose = (thing: Thing) => {
    onClose()
    if (thing.to) void navigate(thing.to)
    else setTimeout(() => thing.act?.()) // once the page has the focus again
  }
  const move = (e: KeyboardEvent) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[e.key]
    if (step) {
      e.preventDefault()
      const next = (chosen + step + things.length) % Math.max(things.length, 1)
      setAt(next)
      document.getElementById(`thing-${next}`)?.scrollIntoView({ block: 'nearest' })
    } else if (e.key === 'Enter') {
      e.preventDefault()
      setPressed(true)
    }
  }
  // Whoever types fast and presses Enter means what is found, not what was found on the way.
  const meant = pressed && (all || at > 0) ? things[chosen] : undefined
  const choosing = useEffectEvent(choose)
  useEffect(() => {
    if (meant) choosing(meant)
  }, [meant])
  return (
    <Modal opened onClose={leave} title="Go to, or do" size="lg" yOffset="10dvh">
      <TextInput
        role="combobox"
        aria-label="What to go to, or to do"
        aria-expanded
        aria-controls="things"
        aria-activedescendant={things.length ? `thing-${chosen}` : undefined}
        placeholder="a report, a result, a place, what is to be done"
        value={typed}
        onChange={e => (setTyped(e.currentTarget.value), setAt(0), setPressed(false))}
        onKeyDown={move}
        data-autofocus
        data-palette
      />
      <div id="things" role="listbox" aria-label="What there is" className={classes.list}>
        {things.map((t, i) => (
          <button
            key={i}
            id={`thing-${i}`}
            type="button"
            role="option"
            tabIndex={-1}
            aria-selected={i === chosen}
            className={classes.thing}
            onClick={() => choose(t)}
          >
            <span className={classes.kind}>{t.kind}</span>
            <span className={classes.name}>{t.name}</span>
            {t.says && <span className={classes.says}>{t.says}</span>}
          </button>
        ))}
      </div>
      <p role="status" className="dim">
        {things.length === 0 && all ? 'Nothing is called so.' : ''}
      </p>
    </Modal>
  )
}
