import { Button, Group, Modal, TextInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Version } from '../../api/client'
import { moment } from '../../parts/said'
import classes from '../Office.module.css'
import { CompareRows } from './CompareRows'
import { tellVersion } from './tellVersion'

type Props = { report: string | undefined; onClose: () => void }

/** The versions of a report: who took each in and why, what it changed, and the way back to it. */
export function Versions({ report, onClose }: Props) {
  return (
    <Modal opened={report !== undefined} onClose={onClose} title={`Versions of ${report}`} size="xl">
      {report && <List report={report} />}
    </Modal>
  )
}

function List({ report }: { report: string }) {
  const [opened, setOpened] = useState<number>()
  const versions = useQuery({
    queryKey: ['versions', report],
    queryFn: () => answer(api.GET('/reports/{report}/versions', { params: { path: { report } } })),
  })
  if (versions.error) return <p className={classes.wrong}>{versions.error.message}</p>
  const present = versions.data?.[0]
  return (
    <ol className={classes.versions}>
      {versions.data?.map(v => (
        <li key={v.number}>
          <b>Version {v.number}</b> {moment(v.at)}
          {v.by && `, ${v.by}`}
          {v.back && `, brings back version ${v.back}`}
          {v === present && ', as it is now'}
          {v.note ? <p>{v.note}</p> : ' '}
          <button
            type="button"
            className="act"
            onClick={() => setOpened(opened === v.number ? undefined : v.number)}
          >
            {opened === v.number ? 'Close' : 'What changed'}
          </button>
          {opened === v.number && <Changed report={report} version={v} present={present!} />}
        </li>
      ))}
    </ol>
  )
}

function Changed({ report, version, present }: { report: string; version: Version; present: Version }) {
  const client = useQueryClient()
  const [note, setNote] = useState('')
  const path = { report, number: version.number }
  const differences = useQuery({
    queryKey: ['differences', path],
    queryFn: () => answer(api.GET('/reports/{report}/versions/{number}/differences', { params: { path } })),
  })
  const restore = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/reports/{report}/versions/{number}/restore', {
          params: { path, header: { 'If-Match': `"${present.version}"` } },
          body: { note },
        }),
      ),
    onSuccess: async () => {
      await tellVersion(report, `${report} is as it was before.`)
      await client.invalidateQueries()
    },
  })
  return (
    <div>
      {differences.error && <p className={classes.wrong}>{differences.error.message}</p>}
      <ul>
        {differences.data?.words.map(w => (
          <li key={w}>{w}</li>
        ))}
      </ul>
      {version.version !== present.version && <CompareRows report={report} number={version.number} />}
      {differences.data?.text && (
        <details>
          <summary>Line by line</summary>
          <pre className={classes.lines}>{differences.data.text}</pre>
        </details>
      )}
      {version.version !== present.version && (
        <Group align="flex-end" mt="xs">
          <TextInput label="Why it comes back" value={note} onChange={e => setNote(e.currentTarget.value)} />
          <Button variant="light" loading={restore.isPending} onClick={() => restore.mutate()}>
            Bring back version {version.number}
          </Button>
        </Group>
      )}
      {restore.error && <p className={classes.wrong}>{restore.error.message}</p>}
    </div>
  )
}
