import { Button, Group, Modal, Radio, TextInput } from '@mantine/core'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { answer, api, type Result } from '../../api/client'
import { working } from '../../controls/rule'
import { moment } from '../../parts/said'

type Props = { result: Result; view: string | undefined }

/** When a report comes by itself, as it is most often wanted; all else is set in its run control. */
const rules = {
  'on every working day': `FREQ=WEEKLY;${working}`,
  'on every Monday': 'FREQ=WEEKLY;BYDAY=MO',
  'on the first working day of every month': `FREQ=MONTHLY;${working};BYSETPOS=1`,
  'on the last working day of every month': `FREQ=MONTHLY;${working};BYSETPOS=-1`,
}

/** Sets the report of a result, with its values, to come by itself: a run control is made of it. */
export function ComeAgain({
  result,
  view,
  opened,
  onClose,
}: Props & { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title={`Let ${result.title} come by itself`}>
      {opened && <Form result={result} view={view} />}
    </Modal>
  )
}

function Form({ result, view }: Props) {
  const client = useQueryClient()
  const [rule, setRule] = useState<string>(rules['on the first working day of every month'])
  const [at, setAt] = useState('08:00')
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/controls/{control}', {
          params: { path: { control: idOf(result) }, header: {} },
          body: {
            title: `${result.title}, by itself`,
            shared: '',
            steps: [{ report: result.report, values: result.values, view }],
            outputs: ['kept'],
            rows: 0,
            seconds: 0,
            hours: '',
            empty: 'keep',
            keepDays: 0,
            timetable: { rule, at },
          },
        }),
      ),
    onSuccess: () =>
      client.invalidateQueries({ predicate: q => ['controls', 'timetable'].includes(String(q.queryKey[0])) }),
  })
  if (keep.data)
    return (
      <p role="status">
        It comes {keep.data.says}, next on {moment(keep.data.nextRun)}.{' '}
        <Link to={`/controls/${keep.data.id}`}>Its run control</Link>
      </p>
    )
  return (
    <form onSubmit={e => (e.preventDefault(), keep.mutate())}>
      <p className="dim">{result.sentence} What was typed is kept: last month stays last month.</p>
      <Radio.Group label="It comes" value={rule} onChange={setRule}>
        {Object.entries(rules).map(([says, r]) => (
          <Radio key={r} mt={6} value={r} label={says} />
        ))}
      </Radio.Group>
      <TextInput
        mt="sm"
        w="6rem"
        label="at"
        name="come-at"
        value={at}
        onChange={e => setAt(e.currentTarget.value)}
      />
      {keep.error && (
        <p className="told" role="alert">
          {keep.error.message}
        </p>
      )}
      <Group mt="md">
        <Button type="submit" loading={keep.isPending} data-autofocus>
          Let it come
        </Button>
      </Group>
    </form>
  )
}

/** A name for the run control, of its report and result, which no other has. */
const idOf = (r: Result) => `${r.report}-${r.id.toLowerCase().replace(/[^a-z0-9]+0*/g, '-')}`.slice(0, 60)
