import { Tabs } from '@mantine/core'
import { useSearchParams } from 'react-router'
import { useSession } from '../signin/session'
import { Backups } from './Backups'
import { Bundles } from './bundles/Bundles'
import { DaysOff } from './DaysOff'
import { Drafts } from './drafts/Drafts'
import { Feedback } from './Feedback'
import { Glossary } from './Glossary'
import { Groups } from './Groups'
import classes from './Office.module.css'
import { Health } from './health/Health'
import { Openings } from './Openings'
import { People } from './People'
import { Reports } from './Reports'
import { SharedParameters } from './SharedParameters'
import { RetiredThings } from './RetiredThings'
import { Shelf } from './shelf/Shelf'
import { Sources } from './sources/Sources'
import { Heading } from '../parts/Heading'

const desks = [
  { id: 'drafts', name: 'Drafts', right: 'write', desk: <Drafts /> },
  { id: 'reports', name: 'Reports', right: 'write', desk: <Reports /> },
  { id: 'shared', name: 'Shared parameters', right: 'write', desk: <SharedParameters /> },
  { id: 'sources', name: 'Sources', right: 'write', desk: <Sources /> },
  { id: 'glossary', name: 'Glossary', right: 'write', desk: <Glossary /> },
  { id: 'shelf', name: 'Documents', right: 'catalog', desk: <Shelf /> },
  { id: 'open', name: 'Open to', right: 'catalog', desk: <Openings /> },
  { id: 'health', name: 'Health', right: 'write', desk: <Health /> },
  { id: 'feedback', name: 'Feedback', right: 'catalog', desk: <Feedback /> },
  { id: 'bundles', name: 'Bundles', right: 'catalog', desk: <Bundles /> },
  { id: 'retired', name: 'Retired', right: 'catalog', desk: <RetiredThings /> },
  { id: 'days', name: 'Days off', right: 'catalog', desk: <DaysOff /> },
  { id: 'people', name: 'People', right: 'people', desk: <People /> },
  { id: 'groups', name: 'Groups', right: 'people', desk: <Groups /> },
  { id: 'backups', name: 'Back-ups', right: 'people', desk: <Backups /> },
] as const

/**
 * The librarian's place: drafts, reports, to whom reports are open, people and groups, each for those who
 * may.
 */
export function OfficePage() {
  const { who } = useSession()
  const [params, setParams] = useSearchParams()
  const mine = desks.filter(d => who?.rights.includes(d.right))
  if (mine.length === 0)
    return (
      <p className={classes.page}>
        The library office is for those who write definitions or keep the catalog.
      </p>
    )
  return (
    <section className={classes.page}>
      <Heading className={classes.title} title="Library office" />
      <Tabs
        value={params.get('desk') ?? mine[0].id}
        onChange={d => setParams(d && d !== mine[0].id ? { desk: d } : {})}
        color="sea.7"
        keepMounted={false}
      >
        <Tabs.List mb="md">
          {mine.map(d => (
            <Tabs.Tab key={d.id} value={d.id} px="xs">
              {d.name}
            </Tabs.Tab>
          ))}
        </Tabs.List>
        {mine.map(d => (
          <Tabs.Panel key={d.id} value={d.id}>
            {d.desk}
          </Tabs.Panel>
        ))}
      </Tabs>
    </section>
  )
}
