import { Button, FileButton, Group } from '@mantine/core'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import { answer, api, type DraftLine } from '../../api/client'
import { Failure } from '../../parts/Failure'
import { moment } from '../../parts/said'
import classes from '../Office.module.css'
import { NewReport } from './NewReport'
import { Rows } from '../../parts/Rows'

/** The definitions that are on their way into the catalog, and the ways to begin one. */
export function Drafts() {
  const go = useNavigate()
  const [asked, { open, close }] = useDisclosure(false)
  const drafts = useQuery({ queryKey: ['drafts'], queryFn: () => answer(api.GET('/drafts')) })
  const read = useMutation({
    mutationFn: async (file: File) => {
      const text = await file.text()
      const d = await answer(api.POST('/drafts', { body: { title: file.name.replace(/\.ya?ml$/, '') } }))
      const header = { 'If-Match': `"${d.revision}"` }
      await answer(
        api.PUT('/drafts/{draft}', { params: { path: { draft: d.line.id }, header }, body: { text } }),
      )
      return d.line.id
    },
    onSuccess: id => go(`/office/drafts/${id}`),
  })
  if (drafts.error) return <Failure error={drafts.error} again={() => drafts.refetch()} />
  return (
    <section>
      <Group mb="md">
        <Button onClick={open}>New report</Button>
        <FileButton accept=".yaml,.yml" onChange={file => file && read.mutate(file)}>
          {props => (
            <Button variant="default" {...props}>
              Read a file
            </Button>
          )}
        </FileButton>
        {read.error && <p className={classes.wrong}>{read.error.message}</p>}
      </Group>
      {drafts.data?.length === 0 && (
        <p>There are no drafts. A new report, or a change of one, begins as one.</p>
      )}
      {drafts.data && drafts.data.length > 0 && <DraftTable drafts={drafts.data} />}
      <NewReport opened={asked} onClose={close} onBegun={id => go(`/office/drafts/${id}`)} />
    </section>
  )
}

function DraftTable({ drafts }: { drafts: DraftLine[] }) {
  return (
    <Rows heads={['Draft', 'State', 'Written by', 'Changed', 'Last said']}>
      {drafts.map(d => (
        <tr key={d.id}>
          <td>
            <Link to={d.mine ? `/office/drafts/${d.id}` : `/reports/${d.tryAs}`}>{d.title}</Link>
            <br />
            <small>
              {d.id} {d.report}
            </small>
          </td>
          <td>{d.state}</td>
          <td>{[d.owner, ...d.writers].join(', ')}</td>
          <td>{moment(d.changedAt)}</td>
          <td>{d.note && `${d.notedBy}: ${d.note}`}</td>
        </tr>
      ))}
    </Rows>
  )
}
