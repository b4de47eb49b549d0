import { Button, Divider, Group, MultiSelect, SegmentedControl, TagsInput } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { useRight } from '../signin/session'
import { tellChanged } from '../trash/undo'
import classes from './Office.module.css'

/** Who signs the results of a report off, and in how many steps. */
export function Signers({ report }: { report: string }) {
  const client = useQueryClient()
  const mayKeep = useRight('catalog')
  const [changed, setChanged] = useState<Schemas['SignRule']>()
  const params = { path: { report } }
  const rule = useQuery({
    queryKey: ['signers', report],
    queryFn: () => answer(api.GET('/reports/{report}/sign-rule', { params })),
  })
  const groups = useQuery({ queryKey: ['groups'], queryFn: () => answer(api.GET('/groups')) })
  const put = (body: Schemas['SignRule']) => answer(api.PUT('/reports/{report}/sign-rule', { params, body }))
  const keep = useMutation({
    mutationFn: () => put(changed!),
    onSuccess: () => {
      const was = rule.data!
      tellChanged(`Who signs ${report} off`, () => put(was))
      setChanged(undefined)
      void client.invalidateQueries({ queryKey: ['signers'] })
    },
  })
  const now = changed ?? rule.data
  if (!now) return null
  const set = (part: Partial<Schemas['SignRule']>) => setChanged({ ...now, ...part })
  return (
    <form onSubmit={e => (e.preventDefault(), keep.mutate())}>
      <Divider my="md" label="Who signs its results off" labelPosition="left" />
      <MultiSelect
        label="Groups"
        data={groups.data?.map(g => ({ value: g.id, label: g.title })) ?? []}
        value={now.who.groups}
        readOnly={!mayKeep}
        onChange={g => set({ who: { ...now.who, groups: g } })}
      />
      <TagsInput
        mt="sm"
        label="People"
        description="names to sign in with; where nobody is named, its owner and librarians sign"
        value={now.who.people}
        readOnly={!mayKeep}
        onChange={p => set({ who: { ...now.who, people: p } })}
      />
      <Group mt="sm" justify="space-between">
        <SegmentedControl
          size="xs"
          aria-label="Steps"
          disabled={!mayKeep}
          data={[
            { value: '1', label: 'In one step' },
            { value: '2', label: 'In two, by different people' },
          ]}
          value={String(now.steps)}
          onChange={s => set({ steps: Number(s) })}
        />
        {mayKeep && (
          <Button type="submit" variant="light" disabled={!changed} loading={keep.isPending}>
            Keep who signs
          </Button>
        )}
      </Group>
      {keep.error && <p className={classes.wrong}>{keep.error.message}</p>}
    </form>
  )
}
