import { Button, Checkbox, Group, Modal, MultiSelect, TagsInput, Text, Textarea } from '@mantine/core'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, Refusal, type Opening } from '../../api/client'
import { useRight } from '../../signin/session'
import { tellVersion } from '../versions/tellVersion'
import classes from './DraftPage.module.css'
import type { Drafting } from './useDraft'

export type StepWanted = 'share' | 'hand-in' | 'give-back' | 'take'

type Props = {
  step: StepWanted | undefined
  drafting: Drafting
  onClose: () => void
  onTaken: (report: string) => void
}

const titles: Record<StepWanted, string> = {
  share: 'Who tries it, who writes it',
  'hand-in': 'Hand in the draft',
  'give-back': 'Give the draft back',
  take: 'Take into the catalog',
}

/** The next step of a draft, with what is said at it. */
export function StepDialog({ step, drafting, onClose, onTaken }: Props) {
  return (
    <Modal opened={step !== undefined} onClose={onClose} title={step && titles[step]} size="lg">
      {step === 'share' && <Share drafting={drafting} onDone={onClose} />}
      {step && step !== 'share' && (
        <Say key={step} step={step} drafting={drafting} onDone={onClose} onTaken={onTaken} />
      )}
    </Modal>
  )
}

function useGroups() {
  return useQuery({ queryKey: ['groups'], queryFn: () => answer(api.GET('/groups')) })
}

function Share({ drafting, onDone }: { drafting: Drafting; onDone: () => void }) {
  const draft = drafting.draft!
  const [writers, setWriters] = useState(draft.line.writers)
  const [testers, setTesters] = useState<Opening>(draft.testers)
  const groups = useGroups()
  const keep = useMutation({ mutationFn: () => drafting.keep({ writers, testers }), onSuccess: onDone })
  return (
    <>
      <Text size="sm">
        Whoever may try it finds it under <a href={`/reports/${draft.line.tryAs}`}>{draft.line.tryAs}</a>, on
        real rows, with the word Draft on everything. They are told on their desk.
      </Text>
      <TagsInput
        mt="sm"
        label="People who try it"
        description="names to sign in with"
        value={testers.people}
        onChange={people => setTesters({ ...testers, people })}
        data-autofocus
      />
      <MultiSelect
        mt="sm"
        label="Groups that try it"
        searchable
        data={groups.data?.map(g => ({ value: g.id, label: g.title })) ?? []}
        value={testers.groups}
        onChange={g => setTesters({ ...testers, groups: g })}
      />
      <TagsInput
        mt="sm"
        label="People who write it with you"
        description="authors and librarians"
        value={writers}
        onChange={setWriters}
      />
      {keep.error && <p className={classes.wrong}>{keep.error.message}</p>}
      <Group justify="flex-end" mt="md">
        <Button loading={keep.isPending} onClick={() => keep.mutate()}>
          Keep
        </Button>
      </Group>
    </>
  )
}

type SayProps = {
  step: Exclude<StepWanted, 'share'>
  drafting: Drafting
  onDone: () => void
  onTaken: (report: string) => void
}

const does = { 'hand-in': 'Hand in', 'give-back': 'Give back', take: 'Take in' } as const
const asks = {
  'hand-in': 'What those who keep the catalog should know',
  'give-back': 'What is to be changed',
  take: 'Why; it stands beside the version',
} as const

function Say({ step, drafting, onDone, onTaken }: SayProps) {
  const id = drafting.draft!.line.id
  const client = useQueryClient()
  const mayOpen = useRight('catalog')
  const [note, setNote] = useState('')
  const [over, setOver] = useState(false)
  const [untried, setUntried] = useState(false)
  const [open, setOpen] = useState<Opening>({ everyone: false, groups: [], people: [] })
  const groups = useGroups()
  const opens = open.everyone || open.groups.length + open.people.length > 0
  const act = useMutation({
    mutationFn: async () => {
      const params = { path: { draft: id } }
      if (step !== 'take') {
        const way =
          step === 'hand-in' ? ('/drafts/{draft}/hand-in' as const) : ('/drafts/{draft}/give-back' as const)
        await answer(api.POST(way, { params, body: { note } }))
        return undefined
      }
      const body = { note, over, untried, open: opens ? open : undefined }
      return (await answer(api.POST('/drafts/{draft}/take', { params, body }))).id
    },
    onSuccess: async report => {
      if (report) {
        await tellVersion(report, `${report} is in the catalog.`)
        onTaken(report)
      }
      onDone()
      await client.invalidateQueries()
    },
  })
  const problem = act.error instanceof Refusal ? act.error.problem : undefined
  return (
    <>
      <Textarea
        label={asks[step]}
        value={note}
        onChange={e => setNote(e.currentTarget.value)}
        autosize
        minRows={3}
        maxLength={2000}
        data-autofocus
      />
      {step === 'take' && mayOpen && (
        <>
          <Checkbox
            mt="sm"
            label="Open it to everyone"
            checked={open.everyone}
            onChange={e => setOpen({ ...open, everyone: e.currentTarget.checked })}
          />
          <MultiSelect
            mt="sm"
            label="Open it to groups"
            searchable
            data={groups.data?.map(g => ({ value: g.id, label: g.title })) ?? []}
            value={open.groups}
            onChange={g => setOpen({ ...open, groups: g })}
            description={opens ? undefined : 'To whom it is open now stays as it is.'}
          />
        </>
      )}
      {step === 'take' && problem?.type === 'stale' && (
        <Checkbox
          mt="sm"
          label="Take it over what somebody changed since the draft began"
          checked={over}
          onChange={e => setOver(e.currentTarget.checked)}
        />
      )}
      {step === 'take' && (untried || problem?.fields.some(f => f.field === 'expected')) && (
        <Checkbox
          mt="sm"
          label="Take it in although figures are not as it expects them"
          checked={untried}
          onChange={e => setUntried(e.currentTarget.checked)}
        />
      )}
      {act.error && (
        <div role="alert" className={classes.wrong}>
          <p>{act.error.message}</p>
          {problem && problem.fields.length > 1 && (
            <ul>
              {problem.fields.map((f, i) => (
                <li key={i}>{f.message}</li>
              ))}
            </ul>
          )}
        </div>
      )}
      <Group justify="flex-end" mt="md">
        <Button loading={act.isPending} onClick={() => act.mutate()}>
          {does[step]}
        </Button>
      </Group>
    </>
  )
}
