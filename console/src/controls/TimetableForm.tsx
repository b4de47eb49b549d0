import { Checkbox, MultiSelect, NumberInput, Select, TagsInput, TextInput } from '@mantine/core'
import { TimePicker } from '@mantine/dates'
import { DayInput } from '../parts/DayInput'
import { useDebouncedValue } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import dayjs from 'dayjs'
import { answer, api, type TimetableOf } from '../api/client'
import classes from './ControlPage.module.css'
import { choiceOf, ruleOf, type Choice } from './rule'
import { moment } from '../parts/said'

type Props = {
  timetable: TimetableOf | undefined
  onChange: (timetable: TimetableOf | undefined) => void
  fault: (part: string) => string | undefined
}

const every = [
  { value: 'day', label: 'day' },
  { value: 'week', label: 'week, on' },
  { value: 'monthday', label: 'month, on a day' },
  { value: 'weekday', label: 'month, on a weekday' },
  { value: 'last', label: 'month, on the last working day' },
  { value: 'after', label: 'month, some working days after its end' },
  { value: 'quarter', label: 'quarter, some working days after its end' },
  { value: 'year', label: 'year' },
  { value: 'rule', label: 'as a rule of RFC 5545' },
]
const days = [
  ['MO', 'Monday'],
  ['TU', 'Tuesday'],
  ['WE', 'Wednesday'],
  ['TH', 'Thursday'],
  ['FR', 'Friday'],
  ['SA', 'Saturday'],
  ['SU', 'Sunday'],
].map(([value, label]) => ({ value, label }))
const nths = [
  ['1', 'first'],
  ['2', 'second'],
  ['3', 'third'],
  ['4', 'fourth'],
  ['-1', 'last'],
].map(([value, label]) => ({ value, label }))
const months = Array.from({ length: 12 }, (_, i) => ({
  value: String(i + 1),
  label: dayjs(new Date(2000, i, 1)).format('MMMM'),
}))

/** When a run control runs by itself: plain choices that write the rule, with the next dates beside. */
export function TimetableForm({ timetable: t, onChange, fault }: Props) {
  const calendars = useQuery({ queryKey: ['calendars'], queryFn: () => answer(api.GET('/calendars')) })
  const [asked] = useDebouncedValue(t, 300)
  const next = useQuery({
    queryKey: ['dates', asked],
    queryFn: () => answer(api.POST('/timetable/dates', { body: asked! })),
    enabled: asked !== undefined && asked.rule !== '',
    retry: false,
  })
  const set = (part: Partial<TimetableOf>) => onChange({ ...t!, ...part })
  const choice = choiceOf(t?.rule ?? '')
  const choose = (part: Partial<Choice>) => set(ruleOf({ ...choice, ...part }))
  return (
    <>
      <Checkbox
        mt="md"
        label="Run it by a timetable"
        checked={t !== undefined}
        onChange={e =>
          onChange(
            e.currentTarget.checked
              ? { rule: 'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1', at: '18:00' }
              : undefined,
          )
        }
      />
      {t && (
        <div className={classes.when}>
          <div className={classes.how}>
            <Select
              label="Every"
              data={every}
              value={choice.every}
              allowDeselect={false}
              onChange={e => choose({ every: e as Choice['every'] })}
            />
            {choice.every === 'week' && (
              <MultiSelect label="On" data={days} value={choice.days} onChange={d => choose({ days: d })} />
            )}
            {choice.every === 'monthday' && (
              <NumberInput
                label="Day"
                description="-1 for the last"
                min={-1}
                max={31}
                value={choice.day}
                onChange={d => choose({ day: Number(d) || 1 })}
              />
            )}
            {choice.every === 'weekday' && (
              <Select
                label="The"
                data={nths}
                value={choice.nth}
                allowDeselect={false}
                onChange={n => choose({ nth: n ?? '1' })}
              />
            )}
            {choice.every === 'weekday' && (
              <Select
                label="Weekday"
                data={days}
                value={choice.days[0] ?? 'MO'}
                allowDeselect={false}
                onChange={d => choose({ days: [d ?? 'MO'] })}
              />
            )}
            {(choice.every === 'after' || choice.every === 'quarter') && (
              <NumberInput
                label="Working days after the end"
                min={1}
                max={20}
                value={choice.day}
                onChange={d => choose({ day: Number(d) || 1 })}
              />
            )}
            {choice.every === 'year' && (
              <Select
                label="Month"
                data={months}
                value={choice.month}
                allowDeselect={false}
                onChange={m => choose({ month: m ?? '1' })}
              />
            )}
            {choice.every === 'year' && (
              <NumberInput
                label="Day"
                min={1}
                max={31}
                value={choice.day}
                onChange={d => choose({ day: Number(d) || 1 })}
              />
            )}
            {choice.every === 'rule' && (
              <TextInput
                label="Rule"
                value={t.rule}
                onChange={e => set({ rule: e.currentTarget.value })}
                error={fault('timetable.rule')}
              />
            )}
            <TimePicker
              label="At"
              hoursInputLabel="Hour"
              minutesInputLabel="Minute"
              value={t.at ?? '00:00'}
              onChange={at => set({ at: at.slice(0, 5) })}
              error={fault('timetable.at')}
            />
            <Select
              label="Days off"
              data={[
                { value: '', label: 'Saturdays and Sundays' },
                ...(calendars.data ?? []).map(c => ({ value: c.id, label: c.title })),
              ]}
              value={t.calendar ?? ''}
              allowDeselect={false}
              onChange={c => set({ calendar: c || undefined })}
              error={fault('timetable.calendar')}
            />
            <Select
              label="On a day off"
              data={[
                { value: 'run', label: 'it runs all the same' },
                { value: 'skip', label: 'it does not run' },
                { value: 'next', label: 'it runs on the next working day' },
                { value: 'previous', label: 'it runs on the working day before' },
              ]}
              value={t.offDay ?? 'run'}
              allowDeselect={false}
              onChange={o => set({ offDay: o as TimetableOf['offDay'] })}
            />
            <Select
              label="What passed while the service was down"
              data={[
                { value: 'once', label: 'runs once' },
                { value: 'all', label: 'runs for each date' },
                { value: 'skip', label: 'is left out' },
              ]}
              value={t.missed ?? 'once'}
              allowDeselect={false}
              onChange={m => set({ missed: m as TimetableOf['missed'] })}
            />
            <DayInput
              label="From"
              value={t.start}
              onChange={start => set({ start })}
              error={fault('timetable.start')}
            />
            <DayInput
              label="Until"
              value={t.until}
              onChange={until => set({ until })}
              error={fault('timetable.until')}
            />
            <TextInput
              label="Zone"
              placeholder="the organisation's"
              value={t.zone ?? ''}
              onChange={e => set({ zone: e.currentTarget.value || undefined })}
              error={fault('timetable.zone')}
            />
            <TagsInput
              label="Not on"
              placeholder="2026-12-31"
              value={t.except ?? []}
              onChange={except => set({ except: except.length ? except : undefined })}
              error={fault('timetable.except')}
            />
          </div>
          <aside className={classes.dates} data-dates>
            {next.error ? (
              <p className={classes.wrong}>{next.error.message}</p>
            ) : (
              next.data && (
                <>
                  <strong>{next.data.says}</strong>
                  <ol>
                    {next.data.dates.map(d => (
                      <li key={d}>{moment(d)}</li>
                    ))}
                  </ol>
                </>
              )
            )}
          </aside>
        </div>
      )}
    </>
  )
}
