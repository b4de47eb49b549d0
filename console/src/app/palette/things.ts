import { keepPreviousData, useQueries } from '@tanstack/react-query'
import { answer, api, type Who } from '../../api/client'
import { desks } from '../../office/desks'
import { moment } from '../../parts/said'
import { placesOf } from '../places'

/** Something to go to, or to do. */
export type Thing = {
  kind: string
  name: string
  /** What is said beside its name. */
  says?: string
  to?: string
  act?: () => void
}

// How many of each kind are offered at once.
const most = 6

/** What one can go to whatever is typed, with what it is called otherwise. */
function standing(who: Who): (Thing & { also: string })[] {
  const office = desks.flatMap(part =>
    part.desks
      .filter(d => who.rights.includes(d.right))
      .map(d => ({
        kind: 'Library office',
        name: d.name,
        to: `/office?desk=${d.id}`,
        also: `office ${part.name}`,
      })),
  )
  return [
    ...placesOf(who).map(p => ({ kind: 'Place', name: p.name, to: p.to, also: p.also })),
    { kind: 'Place', name: 'Guide', to: '/guide', also: 'help documents manual how' },
    { kind: 'Place', name: 'Results signed off', to: '/results?kept=signed', also: 'signed final' },
    { kind: 'Place', name: 'Trash', to: '/trash', also: 'deleted bin bring back' },
    ...(who.rights.includes('run')
      ? [{ kind: 'Place', name: 'New run control', to: '/controls/new', also: 'make create job' }]
      : []),
    ...office,
  ]
}

const actsOfPage =
  '#place [data-acts] button:not([disabled], [aria-haspopup=menu]), [data-portal] [data-acts] [role=menuitem]'

/** What can be done on the page in sight: the buttons of its bars and what is in their menus, by their words. */
function acts(): Thing[] {
  return [...document.querySelectorAll<HTMLElement>(actsOfPage)]
    .map(b => ({ kind: 'On this page', name: b.dataset.name ?? b.textContent.trim(), act: () => b.click() }))
    .filter(thing => thing.name !== '')
}

const words = (text: string) => text.toLocaleLowerCase().split(/\s+/).filter(Boolean)

/** Whether each word that is typed begins one of a text's. */
function meets(typed: string, text: string) {
  const has = words(text)
  return words(typed).every(w => has.some(h => h.startsWith(w)))
}

/**
 * All that meets what is typed, what is nearest first, and whether that is all: the service searches
 * where it knows more.
 */
export function useThings(who: Who, typed: string, settled: string): { things: Thing[]; all: boolean } {
  const search = settled.trim()
  const asked = search !== ''
  const [catalog, controls, results] = useQueries({
    queries: [
      {
        queryKey: ['catalog', search, ''],
        queryFn: () => answer(api.GET('/catalog', { params: { query: { search } } })),
        enabled: asked,
        placeholderData: keepPreviousData,
      },
      {
        queryKey: ['controls', search, most],
        queryFn: () => answer(api.GET('/controls', { params: { query: { search, limit: most } } })),
        enabled: asked && who.rights.includes('run'),
        placeholderData: keepPreviousData,
      },
      {
        queryKey: ['results', search, most],
        queryFn: () => answer(api.GET('/results', { params: { query: { search, limit: most } } })),
        enabled: asked,
        placeholderData: keepPreviousData,
      },
    ],
  })
  const reports = (asked ? (catalog.data?.reports ?? []) : [])
    .slice(0, most)
    .map(r => ({ kind: 'Report', name: r.title, says: r.id, to: `/reports/${r.id}` }))
  const kept = (asked ? (results.data ?? []) : []).map(r => ({
    kind: 'Result',
    name: r.title,
    says: `${r.id}, ${moment(r.keptAt)}. ${r.sentence}`,
    to: `/results/${r.id}`,
  }))
  const saved = (asked ? (controls.data ?? []) : []).map(c => ({
    kind: 'Run control',
    name: c.title,
    to: `/controls/${c.id}`,
  }))
  const here = [...acts(), ...standing(who)].filter(t =>
    meets(typed, `${t.name} ${'also' in t ? t.also : ''}`),
  )
  return {
    things: [...here.slice(0, asked ? most : 100), ...reports, ...saved, ...kept],
    all: typed === settled && ![catalog, controls, results].some(q => q.isFetching),
  }
}
