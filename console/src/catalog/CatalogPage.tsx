import { TextInput } from '@mantine/core'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { useSearchParams } from 'react-router'
import { answer, api, type Catalog } from '../api/client'
import { Document } from '../parts/Document'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { moveFocus } from '../parts/moveFocus'
import { useSearch } from '../parts/useSearch'
import classes from './CatalogPage.module.css'
import { CatalogRow } from './CatalogRow'
import { Words } from './Words'
import { Heading } from '../parts/Heading'

/** Finding a report: categories at the left, search above, reports below. */
export function CatalogPage() {
  const [params, setParams] = useSearchParams()
  const list = useRef<HTMLUListElement>(null)
  const category = params.get('category') ?? ''
  const { typed, settled, type } = useSearch()
  const catalog = useQuery({
    queryKey: ['catalog', settled, category],
    queryFn: () => answer(api.GET('/catalog', { params: { query: { search: settled, category } } })),
    placeholderData: keepPreviousData,
  })
  const only = (['favourites', 'recent', 'popular'] as const).find(o => params.get(o) !== null)
  const reports = chosen(catalog.data, only)
  const choose = (name: string) =>
    setParams(old => {
      const next = new URLSearchParams(old)
      if (name) next.set('category', name)
      else next.delete('category')
      for (const o of ['favourites', 'recent', 'popular']) next.delete(o)
      return next
    })
  if (catalog.error) return <Failure error={catalog.error} again={() => catalog.refetch()} />
  const categories = catalog.data?.categories ?? []
  const all = categories.reduce((sum, c) => sum + c.count, 0)
  return (
    <div className={classes.page}>
      <nav className={classes.categories} aria-label="Categories">
        {Object.entries(mine).map(([name, label]) => (
          <button
            key={name}
            className={classes.category}
            aria-current={only === name || undefined}
            onClick={() => setParams({ [name]: '' })}
          >
            <span>{label}</span>
          </button>
        ))}
        {[{ name: '', count: all }, ...categories].map(c => (
          <button
            key={c.name}
            className={classes.category}
            aria-current={(!only && c.name === category) || undefined}
            onClick={() => choose(c.name)}
          >
            <span>{c.name || 'All reports'}</span>
            <span className="figure">{c.count}</span>
          </button>
        ))}
      </nav>
      <section>
        <Heading className="unseen" title={category ? `Catalog: ${category}` : 'Catalog'} />
        <TextInput
          data-search
          autoFocus
          type="search"
          size="md"
          aria-label="Search the catalog"
          placeholder="Search reports"
          value={typed}
          onChange={e => type(e.currentTarget.value)}
          onKeyDown={e => e.key === 'ArrowDown' && list.current?.querySelector('a')?.focus()}
        />
        {reports?.length === 0 && (
          <State
            title={only ? 'None of these meets the search' : 'No report meets the search'}
            said={
              only === 'favourites'
                ? 'Mark reports with the star beside them.'
                : only
                  ? 'Reports come here once they are used.'
                  : 'Try fewer words, or another category.'
            }
            next={
              <button className={classes.clear} onClick={() => (type(''), choose(''))}>
                Show all reports
              </button>
            }
          />
        )}
        <ul ref={list} className={classes.list} onKeyDown={e => moveFocus(e, 'a')}>
          {reports?.map(r => (
            <CatalogRow key={r.id} report={r} />
          ))}
        </ul>
        {!only && <Words sought={settled} />}
        {!only && catalog.data && catalog.data.resources.length > 0 && (
          <section className={classes.documents}>
            <h2>Documents and links</h2>
            <ul>
              {catalog.data.resources.map(r => (
                <li key={r.id}>
                  <Document resource={r} />
                </li>
              ))}
            </ul>
          </section>
        )}
      </section>
    </div>
  )
}

/** The lists that are the person's own, beside the categories. */
const mine = { favourites: '★ Favourites', recent: 'Opened lately', popular: 'Used by my groups' }

/** The reports of a list of one's own, in its order; all of them where none is chosen. */
function chosen(catalog: Catalog | undefined, only?: keyof typeof mine) {
  if (!catalog || !only) return catalog?.reports
  if (only === 'favourites') return catalog.reports.filter(r => r.favourite)
  return catalog[only].flatMap(id => catalog.reports.filter(r => r.id === id))
}
