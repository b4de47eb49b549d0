import { TextInput } from '@mantine/core'
import { useState } from 'react'
import { answer, api, type Sheet } from '../../api/client'
import { query, type Reading } from '../reading'
import classes from './FindBox.module.css'
import { number } from '../../parts/form'

type Props = { result: string; sheet: Sheet; reading: Reading; from: number; onFound: (line: number) => void }

/** Finds a text in the view as it is shown; Enter goes on, Shift and Enter back. */
export function FindBox({ result, sheet, reading, from, onFound }: Props) {
  const [text, setText] = useState('')
  const [said, setSaid] = useState('')
  const [last, setLast] = useState<number>()
  const view = sheet.kept?.id ?? sheet.view
  const go = async (back: boolean) => {
    if (!text.trim()) return
    const start = last === undefined ? from : back ? last - 1 : last + 1
    try {
      const f = await answer(
        api.GET('/results/{result}/views/{view}/find', {
          params: { path: { result, view }, query: { ...query(reading), text, from: start, back } },
        }),
      )
      if (f.of === 0) return setSaid('not found')
      setSaid(`${number(f.at)} of ${number(f.of)}`)
      setLast(f.line)
      onFound(f.line)
    } catch (e) {
      setSaid((e as Error).message)
    }
  }
  return (
    <form className={classes.find} role="search" onSubmit={e => (e.preventDefault(), go(false))}>
      <TextInput
        size="xs"
        w={150}
        aria-label="Find in result"
        name="find"
        placeholder="Find in result"
        value={text}
        onChange={e => (setText(e.currentTarget.value), setSaid(''), setLast(undefined))}
        onKeyDown={e => e.key === 'Enter' && e.shiftKey && (e.preventDefault(), go(true))}
      />
      {said && (
        <span className="dim figure" data-found>
          {said}
        </span>
      )}
      {last !== undefined && (
        <>
          <button type="button" aria-label="Previous" onClick={() => go(true)}>
            ↑
          </button>
          <button type="submit" aria-label="Next">
            ↓
          </button>
        </>
      )}
    </form>
  )
}
