// The language of definitions: YAML with SQL in it, and the colours of both.
import { HighlightStyle, LRLanguage, syntaxHighlighting } from '@codemirror/language'
import { yamlLanguage } from '@codemirror/lang-yaml'
import { StandardSQL } from '@codemirror/lang-sql'
import { parseMixed, type Input, type SyntaxNodeRef } from '@lezer/common'
import { tags } from '@lezer/highlight'

const sqlKeys = new Set(['from', 'is', 'where', 'scope', 'order', 'group_by', 'each'])

/** SQL stands after some keys, and in the lists below them. */
function holdsSql(node: SyntaxNodeRef, input: Input): boolean {
  for (let at = node.node.parent; at; at = at.parent) {
    if (at.name !== 'Pair') continue
    const key = at.firstChild
    return key !== null && sqlKeys.has(input.read(key.from, key.to).trim())
  }
  return false
}

const literals = new Set(['Literal', 'BlockLiteralContent', 'QuotedLiteral'])

/** YAML whose literals after keys such as `is` and `where` are read as SQL. */
export const definitionLanguage: LRLanguage = yamlLanguage.configure({
  wrap: parseMixed((node, input) => {
    if (!literals.has(node.name) || node.node.parent?.name === 'Key') return null
    return holdsSql(node, input) ? { parser: StandardSQL.language.parser } : null
  }),
})

const style = HighlightStyle.define([
  { tag: [tags.propertyName, tags.definition(tags.propertyName)], color: 'var(--code-key)' },
  { tag: [tags.keyword, tags.operatorKeyword], color: 'var(--code-word)', fontWeight: '600' },
  { tag: [tags.string, tags.special(tags.string)], color: 'var(--code-text)' },
  { tag: [tags.number, tags.bool, tags.null], color: 'var(--code-number)' },
  { tag: [tags.comment, tags.lineComment], color: 'var(--mantine-color-dimmed)', fontStyle: 'italic' },
  { tag: [tags.punctuation, tags.separator, tags.bracket], color: 'var(--mantine-color-dimmed)' },
])

export const colours = syntaxHighlighting(style)
