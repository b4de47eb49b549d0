import { useQuery } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import classes from './CatalogPage.module.css'

type Props = { sought: string }

/** Words of the glossary that meet a search, with what they mean. */
export function Words({ sought }: Props) {
  const terms = useQuery({
    queryKey: ['glossary', sought],
    queryFn: () => answer(api.GET('/glossary', { params: { query: { search: sought } } })),
    enabled: sought.trim().length > 2,
  })
  if (!terms.data || terms.data.length === 0) return null
  return (
    <section className={classes.documents} aria-label="Words">
      <h2>Words</h2>
      <ul>
        {terms.data.slice(0, 8).map(t => (
          <li key={t.id}>
            <strong>{t.name}</strong>
            {t.also.length > 0 && <span className="dim"> ({t.also.join(', ')})</span>}: {t.meaning}
          </li>
        ))}
      </ul>
    </section>
  )
}
