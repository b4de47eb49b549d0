import { TextInput } from '@mantine/core'
import { useDebouncedValue } from '@mantine/hooks'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { NavLink, useParams } from 'react-router'
import { answer, api } from '../api/client'
import { at } from '../api/below'
import { Failure } from '../parts/Failure'
import { Heading } from '../parts/Heading'
import classes from './GuidePage.module.css'

/** The pages that explain the console, found by their words. */
export function GuidePage() {
  const id = useParams().page ?? 'desk'
  const [sought, setSought] = useState('')
  const [search] = useDebouncedValue(sought, 200)
  const pages = useQuery({
    queryKey: ['guide', search],
    queryFn: () => answer(api.GET('/guide', { params: { query: { search } } })),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  })
  const page = useQuery({
    queryKey: ['guide-page', id],
    queryFn: () => answer(api.GET('/guide/{page}', { params: { path: { page: id } } })),
    staleTime: Infinity,
  })
  const p = page.data
  return (
    <div className={classes.page}>
      <nav aria-label="Pages of the guide">
        <TextInput
          size="xs"
          placeholder="Find in the guide"
          aria-label="Find in the guide"
          value={sought}
          onChange={e => setSought(e.currentTarget.value)}
          data-search
        />
        <ul>
          {pages.data?.map(line => (
            <li key={line.id}>
              <NavLink to={`/guide/${line.id}`} data-here={line.id === id || undefined}>
                {line.title}
              </NavLink>
            </li>
          ))}
        </ul>
        {pages.data?.length === 0 && <p className="dim">No page says it.</p>}
      </nav>
      {page.error && <Failure error={page.error} />}
      {p && (
        <article>
          <Heading className={classes.title} title={p.title} />
          <p className={classes.line}>{p.line}</p>
          {/* Written by the service of pages that it was built with. */}
          <div className={classes.text} dangerouslySetInnerHTML={{ __html: p.html }} />
          {p.picture && <img src={at(`/api/guide/${p.id}/picture`)} alt={`The place: ${p.title}`} />}
        </article>
      )}
    </div>
  )
}
