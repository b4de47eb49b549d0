import { Button, Group, Progress } from '@mantine/core'
import { useEffect, useRef, useState } from 'react'
import { api, type Export } from '../../api/client'
import { count, size } from '../../parts/said'
import { at } from '../../api/below'
import { number } from '../../parts/form'

type Props = { file: Export; onAgain: () => void }

/** A file while it is written, with a way to stop it; it comes down by itself when it is whole. */
export function Writing({ file, onAgain }: Props) {
  const [now, setNow] = useState(file)
  const link = useRef<HTMLAnchorElement>(null)
  useEffect(() => {
    const events = new EventSource(at(`/api/exports/${file.id}/progress`))
    events.addEventListener('export', e => {
      const next = JSON.parse(e.data) as Export
      setNow(next)
      if (next.state === 'running' || next.state === 'waiting') return
      events.close()
      if (next.state === 'done') link.current?.click()
    })
    return () => events.close()
  }, [file.id])
  const address = at(`/api/exports/${file.id}/file`)
  const again = (
    <Button variant="subtle" onClick={onAgain}>
      Write another
    </Button>
  )
  return (
    <div role="status" data-export={now.state}>
      <a ref={link} href={address} download hidden aria-hidden>
        file
      </a>
      {now.state === 'done' && (
        <>
          <p>
            {now.name} is written: {size(now.bytes)}.{' '}
            <a href={address} download>
              Save it again
            </a>
          </p>
          {now.defused > 0 && (
            <p className="dim">
              {count(now.defused, 'text', 'texts')} that a spreadsheet would run as formulas{' '}
              {now.defused === 1 ? 'has' : 'have'} an apostrophe before.
            </p>
          )}
          {again}
        </>
      )}
      {now.state === 'failed' && (
        <>
          <p className="told" role="alert">
            {now.reason}
          </p>
          {again}
        </>
      )}
      {now.state === 'stopped' && (
        <>
          <p>The file was stopped.</p>
          {again}
        </>
      )}
      {now.state === 'running' && (
        <>
          <Progress
            mt="md"
            value={now.of ? (100 * now.lines) / now.of : 100}
            animated
            color="sea"
            aria-label="Writing the file"
          />
          <Group mt="xs">
            <span className="figure">
              {number(now.lines)} of {count(now.of, 'line', 'lines')}
            </span>
            <Button
              size="compact-sm"
              variant="light"
              color="brick"
              onClick={() => api.POST('/exports/{export}/stop', { params: { path: { export: file.id } } })}
            >
              Stop
            </Button>
          </Group>
        </>
      )}
    </div>
  )
}
