import { CloseButton } from '@mantine/core'
import { useHotkeys } from '@mantine/hooks'
import { useQuery } from '@tanstack/react-query'
import { useCallback, useState, type UIEvent } from 'react'
import { Link, useParams, useSearchParams } from 'react-router'
import { answer, api, type Schemas } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { useForm } from '../report/form/useForm'
import { formAddress } from '../runs/formAddress'
import { ResultBar, type Named } from './bar/ResultBar'
import { FigureMenu, type Opened } from './figure/FigureMenu'
import { Trail } from './figure/Trail'
import { KeepingSide } from './keeping/KeepingSide'
import { Purpose } from './Purpose'
import { readingIn, write } from './reading'
import { OpenSide } from './reconcile/OpenSide'
import classes from './ResultPage.module.css'
import type { OnFigure } from './sheet/Line'
import { SheetView } from './SheetView'
import { CompleteSide } from './side/CompleteSide'
import { EarlierValues } from './side/EarlierValues'
import { HowMade } from './side/HowMade'
import { OriginContext } from './side/origin'
import { OriginSide } from './side/OriginSide'
import { RowSide } from './side/RowSide'
import { ValuesSide } from './side/ValuesSide'
import { StepsContext, useStepsOf } from './steps'
import { ViewTabs } from './ViewTabs'

type Side = Exclude<Named, 'row'> | { row: number; view: string }

/**
 * A kept result: its values in a sentence, its views, what was opened, and beside them how it was made
 * or the row in hand.
 */
export function ResultPage() {
  const id = useParams().result!
  const [params, setParams] = useSearchParams()
  const [side, setSide] = useState<Side>()
  const [about, setAbout] = useState<Schemas['NoteAbout']>()
  const [origin, setOrigin] = useState<string>()
  const [figure, setFigure] = useState<Opened>()
  // What stands above the rows folds to one line while rows are gone through, and back at their beginning.
  const [folded, setFolded] = useState(false)
  const fold = (e: UIEvent) => {
    const of = e.target as HTMLElement
    if (of.scrollHeight > of.clientHeight * 1.5) setFolded(was => of.scrollTop > (was ? 8 : 160))
  }
  const result = useQuery({
    queryKey: ['result', id],
    queryFn: () => answer(api.GET('/results/{result}', { params: { path: { result: id } } })),
    staleTime: Infinity,
  })
  const steps = useStepsOf(`/results/${id}`)
  // What is typed in beside the rows has an undoing of its own, which comes first.
  useHotkeys([
    ['mod+Z', e => e.defaultPrevented || steps.undo?.(), { preventDefault: false }],
    ['mod+shift+Z', e => e.defaultPrevented || steps.redo?.(), { preventDefault: false }],
  ])
  const filling = useForm(side === 'values' && result.data ? result.data.report : '', {})
  const openOrigin = useCallback((column: string) => (setOrigin(column), setSide('origin')), [])
  if (result.error) return <Failure error={result.error} />
  if (!result.data) return null
  const r = result.data
  if (r.asksPurpose) return <Purpose report={r.report} title={r.title} />
  const view = params.get('view') ?? ''
  const shown = view ? [view] : r.page.map(v => v.id)
  const [handView, handLine] = (params.get('hand') ?? '').split(':')
  const onHand = (line: number, row: number | undefined, of: string) => {
    setParams(
      old => {
        const next = new URLSearchParams(old)
        next.set('hand', `${of}:${line}`)
        return next
      },
      { replace: true },
    )
    if (typeof side === 'object' && row !== undefined) setSide({ row, view: of })
  }
  const onFigure =
    (of: string): OnFigure =>
    (at, cell) =>
      setFigure({ at: at.getBoundingClientRect(), view: of, cell })
  const first = shown[0] ?? ''
  const flip = (to: Named) => {
    if (to === 'row')
      return setSide(typeof side === 'object' ? undefined : { row: rowAt(params), view: first })
    if (to === 'values') filling.fill(r.values)
    setSide(side === to ? undefined : to)
  }
  return (
    <StepsContext value={steps}>
      <div className={classes.page} data-folded={folded || undefined} onScrollCapture={fold}>
        <ResultBar result={r} shown={shown} side={typeof side === 'object' ? 'row' : side} onSide={flip} />
        {side === 'values' && <EarlierValues result={r} filling={filling} />}
        {shown.length > 1 && <ViewTabs result={r} />}
        <Trail result={r.id} title={r.title} />
        <div className={side ? classes.withSide : classes.alone}>
          {side === 'made' && <HowMade result={r} />}
          {side === 'keeping' && <KeepingSide result={r} about={about} onAbout={() => setAbout(undefined)} />}
          {side === 'open' && <OpenSide result={r.id} />}
          {side === 'origin' && <OriginSide result={r.id} of={origin} onOf={setOrigin} />}
          {side === 'values' && <ValuesSide filling={filling} />}
          {side === 'complete' && (
            <CompleteSide
              result={r.id}
              view={first}
              reading={readingIn(params, first)}
              onChange={to =>
                setParams(old => {
                  const next = write(new URLSearchParams(old), first, to)
                  next.set('view', first)
                  return next
                })
              }
            />
          )}
          {typeof side === 'object' && (
            <RowSide result={r.id} view={side.view} reading={readingIn(params, side.view)} row={side.row} />
          )}
          {side && (
            <CloseButton
              className={classes.close}
              aria-label="Close what stands beside the rows"
              onClick={() => setSide(undefined)}
            />
          )}
          <div className={shown.length > 1 ? classes.stack : classes.single}>
            {shown.length === 0 && (
              <State
                title="No rows"
                said="Nothing met these values."
                next={<Link to={formAddress(r)}>Change the values</Link>}
              />
            )}
            <OriginContext value={openOrigin}>
              {shown.map(v => (
                <SheetView
                  key={v}
                  result={r}
                  view={v}
                  tabs={shown.length === 1 ? <ViewTabs result={r} /> : undefined}
                  hand={handView === v ? Number(handLine) : undefined}
                  onHand={onHand}
                  onRow={(row, of) => setSide({ row, view: of })}
                  onFigure={onFigure}
                />
              ))}
            </OriginContext>
          </div>
        </div>
        <FigureMenu
          result={r.id}
          opened={figure}
          onClose={() => setFigure(undefined)}
          onNote={of => (setAbout(of), setSide('keeping'))}
        />
      </div>
    </StepsContext>
  )
}

/** The row of the line in hand, as far as the address tells: without groups a line is a row. */
function rowAt(params: URLSearchParams) {
  return Number((params.get('hand') ?? ':0').split(':')[1]) || 0
}
