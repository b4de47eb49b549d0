import { TextInput } from '@mantine/core'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useRef } from 'react'
import { useSearchParams } from 'react-router'
import { answer, api } from '../api/client'
import { Failure } from '../parts/Failure'
import { State } from '../parts/State'
import { moveFocus } from '../parts/moveFocus'
import { useSearch } from '../parts/useSearch'
import classes from './CatalogPage.module.css'
import { CatalogRow } from './CatalogRow'
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
  const favourites = params.get('favourites') !== null
  const reports = catalog.data?.reports.filter(r => !favourites || r.favourite)
  const choose = (name: string) =>
    setParams(old => {
      const next = new URLSearchParams(old)
      if (name) next.set('category', name)
      else next.delete('category')
      next.delete('favourites')
      return next
    })
  if (catalog.error) return <Failure error={catalog.error} again={() => catalog.refetch()} />
  const categories = catalog.data?.categories ?? []
  const all = categories.reduce((sum, c) => sum + c.count, 0)
  return (
    <div className={classes.page}>
      <nav className={classes.categories} aria-label="Categories">
        <button
          className={classes.category}
          aria-current={favourites || undefined}
          onClick={() => setParams({ favourites: '' })}
        >
          <span>★ Favourites</span>
        </button>
        {[{ name: '', count: all }, ...categories].map(c => (
          <button
            key={c.name}
            className={classes.category}
            aria-current={(!favourites && c.name === category) || undefined}
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
            title={favourites ? 'No favourite meets the search' : 'No report meets the search'}
            said={
              favourites ? 'Mark reports with the star beside them.' : 'Try fewer words, or another category.'
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
      </section>
    </div>
  )
}
