import { Button, Group, MultiSelect, Select, TextInput } from '@mantine/core'
import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import { answer, api, type Control } from '../api/client'
import { count, dayAt } from '../parts/said'
import { useRight } from '../signin/session'
import classes from './History.module.css'
import { number } from '../parts/form'

/** The results of a run control in their order, with what is missing, and their history. */
export function History({ control }: { control: Control }) {
  const navigate = useNavigate()
  const mayRun = useRight('run')
  const reports = [...new Set(control.steps.map(s => s.report))]
  const [report, setReport] = useState(reports[0]!)
  const [like, setLike] = useState<string | null>(null)
  const [on, setOn] = useState('')
  const [track, setTrack] = useState<string[]>([])
  const path = { control: control.id }
  const captures = useQuery({
    queryKey: ['captures', control.id, report, like],
    placeholderData: keepPreviousData,
    queryFn: () =>
      answer(
        api.GET('/controls/{control}/captures', {
          params: { path, query: { report, like: like ?? undefined } },
        }),
      ),
  })
  const columns = useQuery({
    queryKey: ['columns of', report],
    queryFn: () => answer(api.GET('/reports/{report}/columns', { params: { path: { report } } })),
  })
  const then = useMutation({
    mutationFn: () =>
      answer(
        api.GET('/controls/{control}/captures', {
          params: { path, query: { report, like: like ?? undefined, on } },
        }),
      ),
    onSuccess: found => navigate(`/results/${found.on}`),
  })
  const read = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/histories', { body: { control: control.id, report, like: like ?? undefined, track } }),
      ),
    onSuccess: run => navigate(`/runs/${run.id}`),
  })
  const all = captures.data?.captures ?? []
  const kept = all.filter(c => c.result).length
  if (kept === 0) return null
  const error = then.error ?? read.error
  return (
    <section className={classes.history} data-history>
      <h2>History</h2>
      <p>
        {count(kept, 'result is', 'results are')} kept since {dayAt(all[0]!.at)}
        {kept < all.length && (
          <>
            , and <strong>{count(all.length - kept, 'moment is', 'moments are')} missing</strong>
          </>
        )}
        .{captures.data!.other > 0 && ` ${captures.data!.other} of other values or units are not part of it.`}
      </p>
      <ol className={classes.strip} aria-label="Captures, the earliest first">
        {all.map(c => (
          <li key={c.at} className={c.result ? undefined : classes.missing}>
            {c.result ? (
              <Link to={`/results/${c.result}`} title={c.sentence}>
                {dayAt(c.at)}
              </Link>
            ) : (
              <span title={c.reason}>{dayAt(c.at)}: nothing</span>
            )}
          </li>
        ))}
      </ol>
      <Group align="end">
        {reports.length > 1 && (
          <Select
            label="Report"
            allowDeselect={false}
            data={reports}
            value={report}
            onChange={v => (setReport(v!), setLike(null))}
          />
        )}
        {captures.data!.series.length > 1 && (
          <Select
            label="Which of them"
            w="24rem"
            searchable
            allowDeselect={false}
            data={captures.data!.series.map(k => ({
              value: k.like,
              label: `${k.sentence} (${number(k.kept)} kept)`,
            }))}
            value={like ?? captures.data!.series[0]!.like}
            onChange={setLike}
            data-series
          />
        )}
        <form className={classes.ask} onSubmit={e => (e.preventDefault(), then.mutate())}>
          <TextInput
            label="As it was on"
            placeholder="2026-03-20"
            value={on}
            onChange={e => setOn(e.currentTarget.value)}
          />
          <Button type="submit" variant="default" disabled={!on.trim()} loading={then.isPending}>
            Open
          </Button>
        </form>
        {mayRun && (
          <form className={classes.ask} onSubmit={e => (e.preventDefault(), read.mutate())}>
            <MultiSelect
              label="Each row’s state is told by"
              placeholder={track.length === 0 ? 'what the report groups by' : undefined}
              searchable
              data={[
                ...new Map(
                  columns.data?.columns.map(c => [c.id, { value: c.id, label: c.heading }]),
                ).values(),
              ]}
              value={track}
              onChange={setTrack}
            />
            <Button type="submit" disabled={kept < 2} loading={read.isPending}>
              Read the history
            </Button>
          </form>
        )}
      </Group>
      {error && (
        <p className={classes.error} role="alert">
          {error.message}
        </p>
      )}
    </section>
  )
}
