import { Button, Popover } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api, type Who } from '../api/client'
import { moveFocus } from '../parts/moveFocus'
import { ChangePassword } from './ChangePassword'
import classes from './PersonMenu.module.css'
import { Passkeys } from './Passkeys'
import { Preferences } from './Preferences'
import { SecondFactor } from './SecondFactor'
import { Sessions } from './Sessions'
import { at } from '../api/below'
import { useService } from '../api/useService'

type Props = { who: Who }
type What = 'password' | 'sessions' | 'preferences' | 'second' | 'passkeys'

// The page is loaded anew, so that nothing of what was read stays in sight or in memory.
const gone = (by?: string) => window.location.assign(at(by ? '/api/session/leave' : '/'))

/** Who is signed in, with what belongs to the account. */
export function PersonMenu({ who }: Props) {
  const [menu, setMenu] = useState(false)
  const navigate = useNavigate()
  const [open, setOpen] = useState<What>()
  const service = useService()
  const signOut = useMutation({
    mutationFn: () => answer(api.DELETE('/session')),
    onSettled: () => gone(service.data?.provider),
  })
  const choose = (what: What) => {
    setMenu(false)
    setOpen(what)
  }
  return (
    <>
      <Popover
        opened={menu}
        onChange={setMenu}
        position="bottom-end"
        shadow="md"
        trapFocus
        returnFocus
        withRoles={false}
      >
        <Popover.Target>
          <Button
            size="compact-sm"
            variant="subtle"
            color="gray"
            data-person={who.name}
            flex="none"
            aria-haspopup="dialog"
            aria-expanded={menu}
            onClick={() => setMenu(!menu)}
          >
            {who.title} ▾
          </Button>
        </Popover.Target>
        <Popover.Dropdown
          role="dialog"
          aria-label="Your account"
          className={classes.menu}
          onKeyDown={e => moveFocus(e, 'button')}
        >
          <p>
            {who.name}, {who.role}
          </p>
          {who.units.length > 0 && <p>sees only {who.units.join(', ')}</p>}
          <button type="button" onClick={() => choose('password')}>
            Change password
          </button>
          <button type="button" onClick={() => choose('second')}>
            Second factor{who.secondWanted && ', which your role wants'}
          </button>
          <button type="button" onClick={() => choose('passkeys')}>
            Passkeys
          </button>
          <button type="button" onClick={() => choose('sessions')}>
            Where you are signed in
          </button>
          <button type="button" onClick={() => choose('preferences')}>
            Preferences
          </button>
          <button type="button" onClick={() => (setMenu(false), navigate('/guide'))}>
            Guide
          </button>
          <button type="button" onClick={() => (setMenu(false), navigate('/trash'))}>
            Trash
          </button>
          <button type="button" onClick={() => signOut.mutate()}>
            Sign out
          </button>
        </Popover.Dropdown>
      </Popover>
      {open === 'password' && <ChangePassword onClose={() => setOpen(undefined)} onChanged={() => gone()} />}
      {open === 'second' && <SecondFactor who={who} onClose={() => setOpen(undefined)} />}
      {open === 'passkeys' && <Passkeys onClose={() => setOpen(undefined)} />}
      {open === 'preferences' && <Preferences who={who} onClose={() => setOpen(undefined)} />}
      {open === 'sessions' && <Sessions onClose={() => setOpen(undefined)} />}
    </>
  )
}
