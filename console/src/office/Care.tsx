import { Button, Checkbox, Group, Modal, NumberInput, Text, TextInput } from '@mantine/core'
import { DayInput } from '../parts/DayInput'
import { useDisclosure } from '@mantine/hooks'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api, type Schemas } from '../api/client'
import { tellChanged } from '../trash/undo'
import classes from './Office.module.css'
import { Signers } from './Signers'

type Props = { report: string; title: string; care: Schemas['Care'] | undefined }

/** Who looks after a report, when it is looked at again, and whether it is listed for others. */
export function Care({ report, title, care }: Props) {
  const [opened, { open, close }] = useDisclosure(false)
  return (
    <>
      <button type="button" className="act" aria-label={`Care of ${report}`} onClick={open}>
        Care
      </button>
      <Modal opened={opened} onClose={close} title={`Who looks after ${title}`}>
        {opened && care && <CareForm care={care} onDone={close} />}
        {opened && <Signers report={report} />}
      </Modal>
    </>
  )
}

function CareForm({ care, onDone }: { care: Schemas['Care']; onDone: () => void }) {
  const client = useQueryClient()
  const [owner, setOwner] = useState(care.owner ?? '')
  const [review, setReview] = useState(care.reviewOn ?? '')
  const [every, setEvery] = useState<number | string>(care.everyMonths ?? '')
  const [listed, setListed] = useState(care.listed)
  const params = { path: { report: care.report } }
  const onSuccess = async () => {
    await client.invalidateQueries()
    onDone()
  }
  const put = (body: Schemas['CareChange']) => answer(api.PUT('/reports/{report}/care', { params, body }))
  const keep = useMutation({
    mutationFn: () =>
      put({
        listed,
        owner: owner.trim() || undefined,
        reviewOn: review || undefined,
        everyMonths: Number(every) || undefined,
      }),
    onSuccess: () => {
      const { listed, owner, reviewOn, everyMonths } = care
      tellChanged(`Who looks after ${care.report}`, () => put({ listed, owner, reviewOn, everyMonths }))
      return onSuccess()
    },
  })
  const reviewed = useMutation({
    mutationFn: () => answer(api.POST('/reports/{report}/reviewed', { params })),
    onSuccess,
  })
  const use = useQuery({
    queryKey: ['use', care.report],
    queryFn: () => answer(api.GET('/reports/{report}/use', { params })),
  })
  const last = use.data?.[0]
  return (
    <form onSubmit={e => (e.preventDefault(), keep.mutate())}>
      {care.due && (
        <Group mb="sm" justify="space-between">
          <Text size="sm">Its day of review has come.</Text>
          <Button size="xs" variant="light" loading={reviewed.isPending} onClick={() => reviewed.mutate()}>
            It was reviewed
          </Button>
        </Group>
      )}
      <TextInput
        label="Owner"
        description="the name of an author's or a librarian's account"
        value={owner}
        onChange={e => setOwner(e.currentTarget.value)}
        data-autofocus
      />
      <Group mt="sm" grow align="end">
        <DayInput
          label="Look at it again on"
          value={review || undefined}
          onChange={day => setReview(day ?? '')}
        />
        <NumberInput
          label="And then every so many months"
          min={1}
          max={120}
          value={every}
          onChange={setEvery}
        />
      </Group>
      <Checkbox
        mt="md"
        label="List it for people to whom it is not open, so that they can ask for it"
        checked={listed}
        onChange={e => setListed(e.currentTarget.checked)}
      />
      {last && (
        <p className="dim">
          In {last.month}: {last.runs} runs by {last.people} people, read {last.reads} times by {last.readers}
          , taken away {last.exports} times.
        </p>
      )}
      {(keep.error ?? reviewed.error) && (
        <p className={classes.wrong}>{(keep.error ?? reviewed.error)!.message}</p>
      )}
      <Group justify="flex-end" mt="md">
        <Button type="submit" loading={keep.isPending}>
          Keep
        </Button>
      </Group>
    </form>
  )
}
