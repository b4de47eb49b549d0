import { useQuery } from '@tanstack/react-query'
import { answer, api, type Schemas } from '../api/client'
import { Failure } from '../parts/Failure'
import { List } from '../parts/List'
import { moment } from '../parts/said'
import { State } from '../parts/State'
import { useReturn } from './useReturn'

const kinds: Record<Schemas['Thrown']['kind'], string> = {
  result: 'Result',
  criteria: 'Criteria',
  control: 'Run control',
  view: 'View',
  tile: 'Tile of a desk',
  report: 'Report',
  draft: 'Draft',
  document: 'Document or link',
  mark: 'Looked at until',
  calendar: 'Days off',
  source: 'Source',
  group: 'Group',
  account: 'Account',
}

/** What was deleted and can be brought back. */
export function TrashPage() {
  const trash = useQuery({ queryKey: ['trash'], queryFn: () => answer(api.GET('/trash')) })
  if (trash.error) return <Failure error={trash.error} again={() => trash.refetch()} />
  return (
    <List
      title="Trash"
      heads={['What', 'Name', 'Of report', 'Whose', 'Deleted', 'Kept until', '']}
      empty={
        trash.data?.length === 0 && (
          <State
            title="The trash is empty"
            said="What is deleted stays here for 30 days: results, criteria, run controls, views, tiles, drafts, and what the office keeps."
          />
        )
      }
    >
      {trash.data?.map(t => (
        <tr key={t.kind + t.id}>
          <td>{kinds[t.kind]}</td>
          <td style={{ whiteSpace: 'normal' }}>
            <strong>{t.name}</strong> <span className="dim">{t.id}</span>
          </td>
          <td>{t.report}</td>
          <td>{t.owner}</td>
          <td>{moment(t.at)}</td>
          <td>{moment(t.until)}</td>
          <td>
            <Return thing={t} />
          </td>
        </tr>
      ))}
    </List>
  )
}

function Return({ thing }: { thing: Schemas['Thrown'] }) {
  const back = useReturn()
  return (
    <>
      <button
        type="button"
        className="act"
        aria-label={`Bring ${thing.name} back`}
        disabled={back.isPending}
        onClick={() => back.mutate(thing)}
      >
        Bring back
      </button>
      {back.error && (
        <p className="told" role="alert">
          {back.error.message}
        </p>
      )}
    </>
  )
}
