import { Select, Tabs } from '@mantine/core'
import { Fragment, type ReactNode } from 'react'
import { useSearchParams } from 'react-router'
import { useSession } from '../signin/session'
import { Audit } from './Audit'
import { Backups } from './Backups'
import { Bundles } from './bundles/Bundles'
import { desks, type DeskID } from './desks'
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
import { Space } from './space/Space'
import { Heading } from '../parts/Heading'

const shows: Record<DeskID, ReactNode> = {
  drafts: <Drafts />,
  reports: <Reports />,
  shared: <SharedParameters />,
  glossary: <Glossary />,
  shelf: <Shelf />,
  bundles: <Bundles />,
  retired: <RetiredThings />,
  open: <Openings />,
  feedback: <Feedback />,
  people: <People />,
  groups: <Groups />,
  sources: <Sources />,
  health: <Health />,
  days: <DaysOff />,
  space: <Space />,
  backups: <Backups />,
  audit: <Audit />,
}

/** The librarian's place: the desks of those who write, keep the catalog, and keep the service. */
export function OfficePage() {
  const { who } = useSession()
  const [params, setParams] = useSearchParams()
  const mine = desks
    .map(part => ({ name: part.name, desks: part.desks.filter(d => who?.rights.includes(d.right)) }))
    .filter(part => part.desks.length > 0)
  const first = mine[0]?.desks[0]
  if (!first)
    return (
      <p className={classes.page}>
        The library office is for those who write definitions or keep the catalog.
      </p>
    )
  const open = params.get('desk') ?? first.id
  const choose = (desk: string | null) => setParams(desk && desk !== first.id ? { desk } : {})
  return (
    <section className={classes.page}>
      <Heading className={classes.title} title="Library office" />
      <Select
        className={classes.deskMenu}
        aria-label="Desk"
        data={mine.map(part => ({
          group: part.name,
          items: part.desks.map(d => ({ value: d.id, label: d.name })),
        }))}
        value={open}
        onChange={choose}
        allowDeselect={false}
      />
      <Tabs
        value={open}
        onChange={choose}
        color="sea.7"
        keepMounted={false}
        orientation="vertical"
        classNames={{
          root: classes.desks,
          list: classes.deskList,
          tabLabel: classes.deskLabel,
          panel: classes.desk,
        }}
      >
        <Tabs.List>
          {mine.map(part => (
            <Fragment key={part.name}>
              <span className={classes.part} aria-hidden>
                {part.name}
              </span>
              {part.desks.map(d => (
                <Tabs.Tab key={d.id} value={d.id} px="xs" py={6}>
                  {d.name}
                </Tabs.Tab>
              ))}
            </Fragment>
          ))}
        </Tabs.List>
        {mine.map(part =>
          part.desks.map(d => (
            <Tabs.Panel key={d.id} value={d.id}>
              {shows[d.id]}
            </Tabs.Panel>
          )),
        )}
      </Tabs>
    </section>
  )
}
