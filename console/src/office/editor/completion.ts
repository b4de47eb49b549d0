// What may be written at the cursor: keys by the published schema, names by what there
// is in the catalog, in the source, and in the definition itself.
import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete'
import type { Schemas } from '../../api/client'
import { keysAt, placeAt, valuesAt } from './place'
import { number } from '../../parts/form'

export type Known = {
  names: Schemas['Names'] | undefined
  tables: Schemas['SourceTable'][]
  functions: Schemas['Function'][]
}

/** Completes by what is known when it is asked. */
export function completing(known: () => Known) {
  return (context: CompletionContext): CompletionResult | null => {
    const text = context.state.doc.toString()
    const place = placeAt(context.state, context.pos)
    if (!context.explicit && place.word === '') return null
    const options = place.value
      ? valueOptions(place.path, text, known())
      : keysAt(place.path).map(({ key, means }): Completion => ({
          label: key,
          detail: means,
          apply: `${key}: `,
          type: 'property',
        }))
    const from = place.from + Math.max(place.word.lastIndexOf('.'), place.word.lastIndexOf(':'), -1) + 1
    return options.length > 0 ? { from, options, validFor: /^[\w-]*$/ } : null
  }
}

const columnKeys = new Set([
  'columns',
  'sort',
  'cells',
  'measure',
  'x',
  'y',
  'start',
  'end',
  'label',
  'blanks',
  'key',
])
const formulaKeys = new Set(['formula', 'when', 'group', 'by', 'down', 'across', 'at'])
/** Where figures are checked or expected, texts are formulas too. */
const figureKeys = new Set(['holds', 'figure', 'is', 'figures'])
const sqlKeys = new Set(['is', 'where', 'scope', 'order', 'group_by', 'each'])

function valueOptions(path: string[], text: string, { names, tables, functions }: Known): Completion[] {
  const key = path.filter(p => p !== '-').at(-1) ?? ''
  const top = path[0]
  const own = (type: string, list: string[]): Completion[] => list.map(label => ({ label, type }))
  const allowed = own('enum', valuesAt(path))
  if (allowed.length > 0) return allowed
  if (key === 'use') return own('variable', names?.shared ?? [])
  if (key === 'category') return own('text', names?.categories ?? [])
  if (key === 'companions' || key === 'report') return own('class', Object.keys(names?.reports ?? {}))
  if (key === 'means') return own('text', names?.terms ?? [])
  if (key === 'source') return own('class', Object.keys(names?.lists ?? {}))
  if (path.at(-2) === 'with') return [...columnsIn(text), ...parametersIn(text, ':')]
  if (top === 'parameters' && key === 'from') return own('variable', names?.lists[sourceIn(text)] ?? [])
  if (key === 'from') return tables.map(t => ({ label: t.name, detail: detailOf(t), type: 'class' }))
  if (key === 'of') return own('class', datasetsIn(text))
  if (['within', 'levels', 'newest', 'compare'].includes(key)) return parametersIn(text)
  const figures = (top === 'checks' || top === 'expected') && figureKeys.has(key)
  if (top === 'checks' && key === 'each') return columnsIn(text)
  if (top === 'expected' && path.at(-2) === 'values') return []
  if (figures || formulaKeys.has(key))
    return [...columnsIn(text), ...parametersIn(text), ...functions.map(functionOption)]
  if (sqlKeys.has(key)) return [...sourceColumns(tables, text), ...parametersIn(text, ':')]
  if (top === 'views' && columnKeys.has(key)) return columnsIn(text)
  return []
}

function detailOf(t: Schemas['SourceTable']): string {
  return t.view ? 'view' : t.rows === undefined ? 'table' : `${number(t.rows)} rows`
}

function functionOption(f: Schemas['Function']): Completion {
  return { label: f.name, detail: f.says, info: f.example, type: 'function', apply: f.name + '(' }
}

/** The columns of the tables that the definition speaks of, with the table before them. */
function sourceColumns(tables: Schemas['SourceTable'][], text: string): Completion[] {
  return tables
    .filter(t => new RegExp(`\\b${t.name}\\b`).test(text))
    .flatMap(t =>
      t.columns.map(c => ({
        label: c.name,
        displayLabel: `${t.name}.${c.name}`,
        detail: c.type.toLowerCase(),
        type: 'property',
      })),
    )
}

export const sourceIn = (text: string) => /^source:\s*([\w-]+)/m.exec(text)?.[1] ?? ''

function section(text: string, name: string): string {
  const lines = text.split('\n')
  const from = lines.findIndex(l => l.startsWith(name + ':'))
  if (from < 0) return ''
  const rest = lines.slice(from + 1)
  const to = rest.findIndex(l => /^[a-z]/.test(l))
  return rest.slice(0, to < 0 ? undefined : to).join('\n')
}

const idsIn = (text: string, key: string) => [
  ...new Set([...text.matchAll(new RegExp(`\\b${key}:\\s*'?([\\w-]+)`, 'g'))].map(m => m[1])),
]

function columnsIn(text: string): Completion[] {
  return idsIn(section(text, 'datasets'), 'id').map(label => ({ label, type: 'property' }))
}

function parametersIn(text: string, before = ''): Completion[] {
  const declared = section(text, 'parameters')
  return [...idsIn(declared, 'id'), ...idsIn(declared, 'use')].map(id => ({
    label: id,
    displayLabel: before + id,
    detail: 'parameter',
    type: 'variable',
  }))
}

function datasetsIn(text: string): string[] {
  return [...section(text, 'datasets').matchAll(/^ {2}([\w-]+):/gm)].map(m => m[1])
}
