import { Tabs } from '@mantine/core'
import { useQuery } from '@tanstack/react-query'
import { useSearchParams } from 'react-router'
import { answer, api, type Result } from '../api/client'
import classes from './ResultPage.module.css'

// The tab of the views that open with the result. An id of a view holds no star.
const together = '*'

/** The views of a result: those of its report, and those that people kept. */
export function ViewTabs({ result: r }: { result: Result }) {
  const [params, setParams] = useSearchParams()
  const view = params.get('view') ?? ''
  const kept = useQuery({
    queryKey: ['views', r.report],
    queryFn: () => answer(api.GET('/reports/{report}/views', { params: { path: { report: r.report } } })),
  })
  const alone = r.page.length === 1 ? r.page[0].id : ''
  const rows = view.endsWith('.rows') ? view : undefined
  if (r.views.length < 2 && !kept.data?.length && !rows) return null
  return (
    <Tabs
      value={view || together}
      onChange={v => setParams(v && v !== together ? { view: v } : {})}
      color="sea.7"
      classNames={{ root: classes.tabs, tab: classes.tab }}
    >
      <Tabs.List>
        {r.page.length > 1 && <Tabs.Tab value={together}>Together</Tabs.Tab>}
        {r.views.map(v => (
          <Tabs.Tab key={v.id} value={v.id === alone ? together : v.id}>
            {v.title}
          </Tabs.Tab>
        ))}
        {rows && <Tabs.Tab value={rows}>Opened rows</Tabs.Tab>}
        {kept.data?.map(v => (
          <Tabs.Tab
            key={v.id}
            value={v.id}
            data-kept={v.id}
            title={v.everyone ? `Kept for everyone by ${v.owner}` : 'Kept by you'}
          >
            {v.name}
            {v.everyone ? '' : ' ·'}
          </Tabs.Tab>
        ))}
      </Tabs.List>
    </Tabs>
  )
}
