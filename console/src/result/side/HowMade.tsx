import { Button } from '@mantine/core'
import { useMutation } from '@tanstack/react-query'
import { Link } from 'react-router'
import { answer, api, type Result } from '../../api/client'
import { CheckList } from '../../parts/CheckList'
import { length, moment, size } from '../../parts/said'
import { WriteTo } from '../../parts/WriteTo'
import { useRight } from '../../signin/session'
import { MadeOf } from './MadeOf'
import { SeenBy } from './SeenBy'
import classes from './Side.module.css'
import { at } from '../../api/below'
import { number } from '../../parts/form'

type Props = { result: Result }

/** How a result was made: values as typed and as they came out, version, who, when, source, seal. */
export function HowMade({ result }: Props) {
  const mayAsk = useRight('catalog')
  const seal = useMutation({
    mutationFn: () => answer(api.GET('/results/{result}/seal', { params: { path: { result: result.id } } })),
  })
  const facts: [string, React.ReactNode][] = [
    ['Asked by', result.askedBy],
    ['Started', moment(result.startedAt)],
    ['Took', length(result.seconds)],
    [
      'Run',
      <Link key="run" to={`/runs?state=done`}>
        {result.run}
      </Link>,
    ],
    ['Version', <code key="v">{result.version.slice(0, 16)}</code>],
    [
      'Rows cut to',
      result.units.length
        ? `${result.units[0]}${result.units.length > 1 ? ` and ${result.units.length - 1} more units` : ''}`
        : 'nothing',
    ],
    ...(result.made
      ? []
      : ([
          ['Source', result.source],
          ['Source state', <code key="f">{result.fingerprint.slice(0, 16)}</code>],
        ] as [string, React.ReactNode][])),
    ...(result.stays ?? []).map(
      s =>
        [
          `Rows of ${s.dataset}`,
          `${number(s.rows)} stay in the source ${s.source}, ${size(s.bytes)} there`,
        ] as [string, React.ReactNode],
    ),
    ...(result.keptTill ? [['Kept until', moment(result.keptTill)] as [string, React.ReactNode]] : []),
    [
      'Seal',
      <code key="s" className={classes.seal}>
        {result.seal}
      </code>,
    ],
  ]
  return (
    <aside className={classes.side}>
      {result.made && <MadeOf made={result.made} />}
      {result.facts.length > 0 && <h2>Values</h2>}
      <dl>
        {result.facts.map(f => (
          <div key={f.parameter}>
            <dt>{f.label}</dt>
            <dd>
              {f.typed || <span className="dim">not given</span>}
              {f.resolved && f.resolved !== f.typed && <div className="dim">{f.resolved}</div>}
            </dd>
          </div>
        ))}
      </dl>
      {result.checks.length > 0 && (
        <>
          <h2>Checks</h2>
          <CheckList checks={result.checks} />
        </>
      )}
      <h2>Making</h2>
      <dl>
        {facts.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <Button size="xs" variant="light" loading={seal.isPending} onClick={() => seal.mutate()}>
        Check the seal
      </Button>
      {seal.data && (
        <p className={seal.data.unchanged ? classes.good : classes.bad}>
          {seal.data.unchanged
            ? 'The rows are the ones that were sealed.'
            : 'The rows do not agree with the seal.'}
        </p>
      )}
      <p>
        <a className="act" href={at(`/api/results/${result.id}/proof`)} download>
          Take the proof away
        </a>{' '}
        <span className="dim">
          rows, seal and signature; anybody checks it with <code>mantilla seal check</code>
        </span>
      </p>
      {seal.error && <p className={classes.bad}>{seal.error.message}</p>}
      {mayAsk && <SeenBy result={result.id} />}
      <p>
        <WriteTo report={result.report} result={result.id} />
      </p>
    </aside>
  )
}
