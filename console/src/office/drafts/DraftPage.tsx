import { Badge, Button, Group, Tabs } from '@mantine/core'
import { useMutation, useQuery } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { answer, api } from '../../api/client'
import { Failure } from '../../parts/Failure'
import { Heading } from '../../parts/Heading'
import { Remove } from '../../parts/Remove'
import { useRight } from '../../signin/session'
import { fromTrash } from '../../trash/undo'
import { sourceIn } from '../editor/completion'
import { Editor, type Hand } from '../editor/Editor'
import classes from './DraftPage.module.css'
import { Expectations } from './Expectations'
import { FirstRows } from './FirstRows'
import { Found } from './Found'
import { useTables } from './NewReport'
import { SourceLook } from './SourceLook'
import { StepDialog, type StepWanted } from './StepDialog'
import { Theirs } from './Theirs'
import { useDraft, type Drafting } from './useDraft'
import { useFindings } from './useFindings'

/** Writes a definition: the text, and beside it what was found, its form, its first rows and its source. */
export function DraftPage() {
  const id = useParams().draft!
  const drafting = useDraft(id)
  if (drafting.error) return <Failure error={drafting.error} />
  if (!drafting.draft) return null
  return <Desk key={id} id={id} drafting={drafting} />
}

function Desk({ id, drafting }: { id: string; drafting: Drafting }) {
  const draft = drafting.draft!
  const go = useNavigate()
  const mayKeep = useRight('catalog')
  const [beside, setBeside] = useState<string | null>('found')
  const [step, setStep] = useState<StepWanted>()
  const hand = useRef<Hand>(undefined)
  const finding = useFindings(drafting.text)
  const source = sourceIn(drafting.text)
  const tables = useTables(source)
  const names = useQuery({
    queryKey: ['names'],
    queryFn: () => answer(api.GET('/definitions/names')),
    staleTime: 60_000,
  })
  const functions = useQuery({
    queryKey: ['functions'],
    queryFn: () => answer(api.GET('/formulas')),
    staleTime: Infinity,
  })
  const check = () => {
    setBeside('found')
    finding.check()
  }
  const format = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/definitions/format', {
          body: drafting.text,
          bodySerializer: (t: string) => t,
          headers: { 'Content-Type': 'application/yaml' },
          parseAs: 'text',
        }),
      ),
    onSuccess: text => hand.current?.replace(text),
    onError: check,
  })
  const want = async (wanted: StepWanted) => {
    if (!drafting.kept) await drafting.keep()
    setStep(wanted)
  }
  return (
    <div className={classes.page}>
      <header className={classes.head}>
        <div>
          <p className={classes.way}>
            <Link to="/office">Library office</Link>
          </p>
          <Heading className={classes.title} title={draft.line.title} />
        </div>
        <Badge tt="none" variant="light" color={draft.line.state === 'given back' ? 'amber' : 'sea'}>
          {draft.line.state}
        </Badge>
        <span className={classes.kept} role="status">
          {drafting.failed ? drafting.failed.message : drafting.kept ? 'Kept' : 'Not kept yet'}
        </span>
        <Group ml="auto" gap="xs">
          <Button variant="default" onClick={() => format.mutate()} loading={format.isPending}>
            Format
          </Button>
          <Button variant="default" onClick={check} loading={finding.checking}>
            Check
          </Button>
          <Button variant="default" onClick={() => want('share')}>
            Try and share
          </Button>
          {draft.line.state !== 'handed in' && (
            <Button variant="light" onClick={() => want('hand-in')}>
              Hand in
            </Button>
          )}
          {draft.line.state === 'handed in' && mayKeep && (
            <Button variant="light" onClick={() => want('give-back')}>
              Give back
            </Button>
          )}
          <Button onClick={() => want('take')}>Take into the catalog</Button>
          <Remove
            name={id}
            says="The draft stays in the trash for 30 days. Results of trying it out stay."
            undo={fromTrash('draft', id)}
            onRemove={async () => {
              await answer(api.DELETE('/drafts/{draft}', { params: { path: { draft: id } } }))
              go('/office')
            }}
          />
        </Group>
      </header>
      {draft.line.note && (
        <p className={classes.note}>
          {draft.line.notedBy}: {draft.line.note}
        </p>
      )}
      {drafting.theirs && <Theirs drafting={drafting} onTake={text => hand.current?.replace(text)} />}
      <div className={classes.columns}>
        <Editor
          name={id}
          text={drafting.text}
          faults={finding.findings?.faults ?? []}
          known={{ names: names.data, tables: tables.data ?? [], functions: functions.data ?? [] }}
          onChange={drafting.write}
          onKeep={() => drafting.keep()}
          onCheck={check}
          hand={hand}
        />
        <Tabs
          value={beside}
          onChange={setBeside}
          color="sea.7"
          className={classes.beside}
          keepMounted={false}
        >
          <Tabs.List>
            <Tabs.Tab value="found">Found</Tabs.Tab>
            <Tabs.Tab value="rows">Form and first rows</Tabs.Tab>
            <Tabs.Tab value="expected">Expected</Tabs.Tab>
            <Tabs.Tab value="source">Source</Tabs.Tab>
          </Tabs.List>
          <Tabs.Panel value="found">
            <Found finding={finding} onGo={(line, column) => hand.current?.goTo(line, column)} />
          </Tabs.Panel>
          <Tabs.Panel value="rows">
            <FirstRows draft={draft} kept={drafting.kept} />
          </Tabs.Panel>
          <Tabs.Panel value="expected">
            <Expectations text={drafting.text} />
          </Tabs.Panel>
          <Tabs.Panel value="source">
            <SourceLook source={source} onInsert={text => hand.current?.insert(text)} />
          </Tabs.Panel>
        </Tabs>
      </div>
      <StepDialog
        step={step}
        drafting={drafting}
        onClose={() => setStep(undefined)}
        onTaken={report => go(`/reports/${report}`)}
      />
    </div>
  )
}
