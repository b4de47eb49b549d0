import { Button, Checkbox, Group, MultiSelect, Select, TagsInput } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Opening } from '../api/client'
import { tellChanged } from '../trash/undo'
import classes from './Office.module.css'
import { Requests } from './Requests'

function toWhom(to: Opening): string {
  return [...(to.everyone ? ['everyone'] : []), ...to.groups, ...to.people].join(', ') || 'nobody'
}

/** To whom a report is open: everyone, some groups, some people. */
export function Openings() {
  const [report, setReport] = useState<string | null>(null)
  const [changed, setChanged] = useState<Opening>()
  const catalog = useQuery({ queryKey: ['catalog', '', ''], queryFn: () => answer(api.GET('/catalog')) })
  const groups = useQuery({ queryKey: ['groups'], queryFn: () => answer(api.GET('/groups')) })
  const opening = useQuery({
    queryKey: ['opening', report],
    queryFn: () => answer(api.GET('/reports/{report}/opening', { params: { path: { report: report! } } })),
    enabled: report !== null,
  })
  const now = changed ?? opening.data
  const put = (report: string, { everyone, groups, people }: Opening) =>
    answer(
      api.PUT('/reports/{report}/opening', {
        params: { path: { report } },
        body: { everyone, groups, people },
      }),
    )
  const keep = useMutation({
    mutationFn: () => put(report!, now!),
    onSuccess: async () => {
      const was = opening.data!
      setChanged(undefined)
      const now = await opening.refetch()
      // What waits until another wants it too has changed nothing yet.
      if (!now.data?.wish) tellChanged(`To whom ${report} is open`, () => put(report!, was))
    },
  })
  return (
    <div style={{ maxWidth: '34rem' }}>
      <Requests />
      <Select
        label="Report"
        searchable
        data={catalog.data?.reports.map(r => ({ value: r.id, label: r.title })) ?? []}
        value={report}
        onChange={r => (setReport(r), setChanged(undefined), keep.reset())}
      />
      {opening.data?.wish && (
        <p data-opening="wish">
          {opening.data.wish.by} wants it open to {toWhom(opening.data.wish.to)}. It waits until another
          person wants the same.{' '}
          <button className="act" onClick={() => setChanged(opening.data!.wish!.to)}>
            Look at it
          </button>
        </p>
      )}
      {now && (
        <>
          <Checkbox
            mt="md"
            label="Everyone with an account"
            checked={now.everyone}
            onChange={e => setChanged({ ...now, everyone: e.currentTarget.checked })}
          />
          <MultiSelect
            mt="sm"
            label="Groups"
            data={groups.data?.map(g => ({ value: g.id, label: g.title })) ?? []}
            value={now.groups}
            onChange={g => setChanged({ ...now, groups: g })}
          />
          <TagsInput
            mt="sm"
            label="People"
            description="names to sign in with"
            value={now.people}
            onChange={p => setChanged({ ...now, people: p })}
          />
          {!now.everyone && now.groups.length + now.people.length === 0 && (
            <p className="told">It is open to nobody but those who write definitions.</p>
          )}
          {keep.error && <p className={classes.wrong}>{keep.error.message}</p>}
          <Group mt="md">
            <Button disabled={!changed} loading={keep.isPending} onClick={() => keep.mutate()}>
              Keep
            </Button>
          </Group>
        </>
      )}
    </div>
  )
}
