// Where the cursor stands in a definition: which keys lead there, and which part of the
// published schema says what may stand there.
import type { EditorState } from '@codemirror/state'
import published from '../../../../docs/definition.schema.json'

/** What the schema says of a part of a definition. */
export type Part = {
  description?: string
  enum?: string[]
  properties?: Record<string, Part>
  additionalProperties?: Part | boolean
  items?: Part
  anyOf?: Part[]
  oneOf?: Part[]
  $ref?: string
}

const root = published as unknown as Part & { $defs: Record<string, Part> }

/** A part with what it refers to in its place, as the forms that it may have. */
function forms(part: Part | undefined): Part[] {
  if (!part) return []
  const own = part.$ref ? forms(root.$defs[part.$ref.replace('#/$defs/', '')]) : [part]
  const all = own.flatMap(p => [p, ...[...(p.anyOf ?? []), ...(p.oneOf ?? [])].flatMap(forms)])
  return part.description ? [{ description: part.description }, ...all] : all
}

/** The part below a key, or below an item of a list where the key is `-`. */
function below(parts: Part[], key: string): Part[] {
  return parts.flatMap(p => {
    if (key === '-') return forms(p.items)
    const named = p.properties?.[key]
    if (named) return forms(named)
    return typeof p.additionalProperties === 'object' ? forms(p.additionalProperties) : []
  })
}

/** What the schema says at the end of a path of keys. */
export function partAt(path: string[]): Part[] {
  return path.reduce(below, forms(root))
}

/** The keys that may stand at a path, each with what it means. */
export function keysAt(path: string[]): { key: string; means: string | undefined }[] {
  const found = new Map<string, string | undefined>()
  for (const p of partAt(path))
    for (const [key, part] of Object.entries(p.properties ?? {})) found.set(key, part.description)
  return [...found].map(([key, means]) => ({ key, means }))
}

/** The values that may stand at a path, where they are a few. */
export function valuesAt(path: string[]): string[] {
  return [...new Set(partAt(path).flatMap(p => p.enum ?? []))]
}

/** The path to a place, and whether a value is being written there rather than a key. */
export type Place = { path: string[]; value: boolean; word: string; from: number }

const keyOf = /^(\s*)(-\s+)?(?:([\w-]+)\s*:)?(.*)$/

/** Reads the place of the cursor from the lines above it and the braces before it. */
export function placeAt(state: EditorState, at: number): Place {
  const line = state.doc.lineAt(at)
  const before = line.text.slice(0, at - line.from)
  const word = /[\w.:-]*$/.exec(before)![0]
  const [, space, dash, key, rest] = keyOf.exec(before)!
  const path = parents(state, line.number, space.length + (dash ? 1 : 0))
  if (dash) path.push('-')
  const brace = dash && !key ? rest : key === undefined ? before : rest
  if (key !== undefined) path.push(key)
  const inside = flow(brace, path)
  return { path: inside.path, value: inside.value ?? key !== undefined, word, from: at - word.length }
}

/** The keys of the lines above that stand further left. */
function parents(state: EditorState, number: number, indent: number): string[] {
  const path: string[] = []
  for (let n = number - 1; n > 0 && indent > 0; n--) {
    const [, space, dash, key] = keyOf.exec(state.doc.line(n).text)!
    if (key === undefined && !dash) continue
    const own = space.length
    if (own >= indent) continue
    if (dash) {
      if (key !== undefined && own + dash.length < indent) path.unshift(key)
      path.unshift('-')
      indent = own + 1
      // The list stands below a key at the same depth or further left.
      const above = ownerOf(state, n, own)
      if (above) {
        path.unshift(above.key)
        indent = above.indent
        n = above.line
      }
      continue
    }
    path.unshift(key!)
    indent = own
  }
  return path
}

function ownerOf(state: EditorState, number: number, indent: number) {
  for (let n = number - 1; n > 0; n--) {
    const [, space, dash, key] = keyOf.exec(state.doc.line(n).text)!
    if (!dash && key !== undefined && space.length <= indent) return { key, indent: space.length, line: n }
  }
  return undefined
}

/** Goes on within braces and brackets on the line: `{id: x, opens: {report: `. */
function flow(text: string, path: string[]): { path: string[]; value?: boolean } {
  const open: { path: string[]; list: boolean; key?: string }[] = []
  let now = path
  let value: boolean | undefined
  let quoted = ''
  let word = ''
  for (const c of text) {
    if (quoted) {
      if (c === quoted) quoted = ''
      continue
    }
    if (c === "'" || c === '"') quoted = c
    else if (c === '{' || c === '[') {
      const list = c === '['
      open.push({ path: now, list })
      now = list ? [...now, '-'] : now
      value = list
      word = ''
    } else if (c === '}' || c === ']') {
      now = open.pop()?.path ?? path
      value = true
      word = ''
    } else if (c === ':' && open.length > 0 && !open.at(-1)!.list && word.trim()) {
      now = [...open.at(-1)!.path, word.trim()]
      value = true
      word = ''
    } else if (c === ',' && open.length > 0) {
      const inner = open.at(-1)!
      now = inner.list ? [...inner.path, '-'] : inner.path
      value = inner.list
      word = ''
    } else word += c
  }
  return { path: now, value }
}
