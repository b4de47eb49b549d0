import { autocompletion, completionKeymap } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyField, historyKeymap } from '@codemirror/commands'
import {
  bracketMatching,
  foldGutter,
  foldKeymap,
  indentOnInput,
  indentUnit,
  LanguageSupport,
} from '@codemirror/language'
import { lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint'
import { highlightSelectionMatches, searchKeymap } from '@codemirror/search'
import { EditorState, type Extension } from '@codemirror/state'
import {
  drawSelection,
  EditorView,
  highlightActiveLine,
  hoverTooltip,
  keymap,
  lineNumbers,
} from '@codemirror/view'
import { useEffect, useRef } from 'react'
import type { Schemas } from '../../api/client'
import { completing, type Known } from './completion'
import classes from './Editor.module.css'
import { colours, definitionLanguage } from './language'
import { keysAt, partAt, placeAt } from './place'

/** What others do with the editor. */
export type Hand = {
  goTo: (line: number, column: number) => void
  insert: (text: string) => void
  replace: (text: string) => void
}

type Props = {
  /** Tells one text from another: its undo is kept under it across a reload. */
  name: string
  text: string
  faults: Schemas['Place'][]
  known: Known
  onChange: (text: string) => void
  onKeep: () => void
  onCheck: () => void
  hand: React.RefObject<Hand | undefined>
}

const kept = (name: string) => `mantilla-editor-${name}`

/** Writes a definition: colours, completion, what keys mean, faults under the words, folding, finding. */
export function Editor({ name, text, faults, known, onChange, onKeep, onCheck, hand }: Props) {
  const at = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(undefined)
  const now = useRef({ known, onChange, onKeep, onCheck })
  now.current = { known, onChange, onKeep, onCheck }
  useEffect(() => {
    const own: Extension[] = [
      lineNumbers(),
      foldGutter(),
      history(),
      drawSelection(),
      indentOnInput(),
      indentUnit.of('  '),
      bracketMatching(),
      highlightActiveLine(),
      EditorView.lineWrapping,
      highlightSelectionMatches(),
      lintGutter(),
      new LanguageSupport(definitionLanguage),
      colours,
      autocompletion({ override: [completing(() => now.current.known)] }),
      hoverTooltip(meaning),
      keymap.of([
        { key: 'Mod-s', run: () => (now.current.onKeep(), true) },
        { key: 'Mod-Enter', run: () => (now.current.onCheck(), true) },
        ...completionKeymap,
        ...searchKeymap,
        ...foldKeymap,
        ...lintKeymap,
        ...historyKeymap,
        ...defaultKeymap,
      ]),
      EditorView.contentAttributes.of({ 'aria-label': 'Definition', spellcheck: 'false', tabindex: '0' }),
      EditorView.updateListener.of(u => {
        if (!u.docChanged) return
        sessionStorage.setItem(kept(name), JSON.stringify(u.state.toJSON({ history: historyField })))
        now.current.onChange(u.state.doc.toString())
      }),
    ]
    const editor = new EditorView({ state: begun(name, text, own), parent: at.current! })
    view.current = editor
    hand.current = handOf(editor)
    return () => editor.destroy()
    // The text is the editor's own from its first letter on; another name makes another editor.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [name])
  useEffect(() => {
    const editor = view.current
    if (!editor) return
    const found = faults.map(f => {
      const line = editor.state.doc.line(Math.min(Math.max(f.line, 1), editor.state.doc.lines))
      const at = Math.min(line.from + Math.max(f.column - 1, 0), line.to)
      const from = wordOf(f.message, editor.state.doc.sliceString(at, at + near)) + at
      const word = /^[\w.:-]+/.exec(editor.state.doc.sliceString(from, from + 80))?.[0].length ?? 1
      return {
        from,
        to: Math.min(from + word, editor.state.doc.length),
        severity: 'error' as const,
        message: f.message,
      }
    })
    editor.dispatch(setDiagnostics(editor.state, found))
  }, [faults])
  return <div ref={at} className={classes.editor} />
}

/** How far after its place the word may stand that a fault speaks of. */
const near = 600

/** Where in a text the word stands that a fault names in quotes, or 0. */
function wordOf(message: string, text: string): number {
  const name = /"([\w-]+)"/.exec(message)?.[1]
  return name ? Math.max(new RegExp(`\\b${name}\\b`).exec(text)?.index ?? 0, 0) : 0
}

/** The text with its undo, where the window still has both. */
function begun(name: string, text: string, extensions: Extension[]): EditorState {
  const before = sessionStorage.getItem(kept(name))
  if (before) {
    try {
      const state = EditorState.fromJSON(JSON.parse(before), { extensions }, { history: historyField })
      if (state.doc.toString() === text) return state
    } catch {
      sessionStorage.removeItem(kept(name))
    }
  }
  return EditorState.create({ doc: text, extensions })
}

function handOf(editor: EditorView): Hand {
  return {
    goTo: (line, column) => {
      const to = editor.state.doc.line(Math.min(Math.max(line, 1), editor.state.doc.lines))
      editor.dispatch({
        selection: { anchor: Math.min(to.from + column - 1, to.to) },
        effects: EditorView.scrollIntoView(to.from, { y: 'center' }),
      })
      editor.focus()
    },
    insert: text => {
      editor.dispatch(editor.state.replaceSelection(text))
      editor.focus()
    },
    replace: text => editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: text } }),
  }
}

/** What a key means, as the published schema says it. */
function meaning(view: EditorView, at: number) {
  const word = view.state.wordAt(at)
  if (!word) return null
  const name = view.state.doc.sliceString(word.from, word.to)
  if (!/^\s*:/.test(view.state.doc.sliceString(word.to, word.to + 3))) return null
  const place = placeAt(view.state, word.from)
  const means =
    keysAt(place.path).find(k => k.key === name)?.means ??
    partAt([...place.path, name]).find(p => p.description)?.description
  if (!means) return null
  return {
    pos: word.from,
    end: word.to,
    create: () => {
      const dom = document.createElement('div')
      dom.textContent = means
      return { dom }
    },
  }
}
