import { Button, Group, Tabs } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams, useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { DeleteResult } from '../results/DeleteResult'
import { formAddress } from '../runs/formAddress'
import { EarlierValues } from './EarlierValues'
import { HowMade } from './HowMade'
import classes from './ResultPage.module.css'
import { SheetView } from './SheetView'
import { useForm } from '../report/form/useForm'
import { useMayChange } from '../signin/session'
import { ValuesSide } from './ValuesSide'

// The tab of the views that open with the result. An id of a view holds no star.
const together = '*'

/** A kept result: its values in a sentence, its views, and how it was made. */
export function ResultPage() {
  const id = useParams().result!
  const [params, setParams] = useSearchParams()
  const navigate = useNavigate()
  const mayChange = useMayChange()
  const [side, setSide] = useState<'made' | 'values'>()
  const result = useQuery({
    queryKey: ['result', id],
    queryFn: () => answer(api.GET('/results/{result}', { params: { path: { result: id } } })),
    staleTime: Infinity,
  })
  const filling = useForm(side === 'values' && result.data ? result.data.report : '', {})
  if (result.error) return <Failure error={result.error} />
  if (!result.data) return null
  const r = result.data
  const flip = (to: 'made' | 'values') => {
    if (to === 'values') filling.fill(r.values)
    setSide(side === to ? undefined : to)
  }
  const view = params.get('view') ?? ''
  const shown = view ? r.views.filter((v) => v.id === view) : r.page
  return (
    <div className={classes.page}>
      <header className={classes.head}>
        <div className={classes.names}>
          <p className={classes.number}>{r.id} of <Link to={`/reports/${r.report}`}>{r.report}</Link></p>
          <h1 className={classes.title}>{r.title}</h1>
          <p className={classes.sentence} data-sentence>{r.sentence}</p>
        </div>
        <Group gap="xs">
          <Button size="xs" variant="light" aria-expanded={side === 'values'} onClick={() => flip('values')}>Change values</Button>
          <Button size="xs" variant="default" aria-expanded={side === 'made'} onClick={() => flip('made')}>How it was made</Button>
          {mayChange(r.askedBy) && <DeleteResult result={r.id} title={r.title} after={() => navigate('/results')} />}
        </Group>
      </header>
      {side === 'values' && <EarlierValues result={r} filling={filling} />}
      {r.views.length > 1 && (
        <Tabs value={view || together} onChange={(v) => setParams(v && v !== together ? { view: v } : {})} color="sea.7" className={classes.tabs}>
          <Tabs.List>
            {r.page.length > 1 && <Tabs.Tab value={together}>Together</Tabs.Tab>}
            {r.views.map((v) => <Tabs.Tab key={v.id} value={r.page.length === 1 && v.id === r.page[0].id ? together : v.id}>{v.title}</Tabs.Tab>)}
          </Tabs.List>
        </Tabs>
      )}
      <div className={side ? classes.withSide : classes.alone}>
        <div className={shown.length > 1 ? classes.stack : classes.single}>
          {shown.length === 0 && <State title="No rows" said="Nothing met these values." next={<Link to={formAddress(r)}>Change the values</Link>} />}
          {shown.map((v) => <SheetView key={v.id} result={r.id} view={v} alone={shown.length === 1} />)}
        </div>
        {side === 'made' && <HowMade result={r} />}
        {side === 'values' && <ValuesSide filling={filling} />}
      </div>
    </div>
  )
}
