/** CodeMirror in the workbench's colours. It is loaded only when an editor is opened. */
import { autocompletion, type CompletionContext } from '@codemirror/autocomplete'
import { css } from '@codemirror/lang-css'
import { html } from '@codemirror/lang-html'
import { javascript } from '@codemirror/lang-javascript'
import { liquid } from '@codemirror/lang-liquid'
import { markdown } from '@codemirror/lang-markdown'
import { yaml } from '@codemirror/lang-yaml'
import { HighlightStyle, LanguageSupport, syntaxHighlighting } from '@codemirror/language'
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint'
import { EditorState } from '@codemirror/state'
import { tags } from '@lezer/highlight'
import CodeMirror, { EditorView, type ReactCodeMirrorRef } from '@uiw/react-codemirror'
import { useEffect, useMemo, useRef, useState } from 'react'
import type { ProblemItem } from '../../../contract/problem.ts'
import { CursorTools, type CursorHandlers } from './cursor-tools.ts'
import type { Language } from './documents.ts'

/**
 * Templates without the language package's extras: it closes tags on its own, which doubles those that are typed, and
 * completes names that the blog does not know.
 */
function template(): LanguageSupport {
  const base = html({ autoCloseTags: false })
  return new LanguageSupport(liquid({ base }).language, base.support)
}

const LANGUAGES = { yaml, liquid: template, markdown, css, javascript } as const

const colours = EditorView.theme({
  '&': { backgroundColor: 'var(--paper)', color: 'var(--ink)', fontSize: '12.5px' },
  '.cm-content, .cm-gutters': {
    fontFamily: 'var(--mono)',
    lineHeight: '1.55',
    fontVariantLigatures: 'none',
  },
  '.cm-gutters': { backgroundColor: 'var(--code)', color: 'var(--muted)', border: 'none' },
  '.cm-activeLine': { backgroundColor: 'var(--code)' },
  '.cm-activeLineGutter': { backgroundColor: 'var(--line-faint)' },
  '&.cm-focused': { outline: 'none' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '&.cm-focused .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: 'var(--cobalt-pale) !important',
  },
  '.cm-tooltip': { backgroundColor: 'var(--paper)', border: '1px solid var(--line)', color: 'var(--ink)' },
  '.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--cobalt)',
    color: 'var(--paper)',
  },
  '.cm-completionDetail': { marginLeft: '12px' },
  '.cm-description': { padding: '4px 9px', fontSize: '12.5px', maxWidth: '420px' },
  '.cm-description div:first-child': { fontFamily: 'var(--mono)' },
})
const marks = HighlightStyle.define([
  {
    tag: [tags.keyword, tags.tagName, tags.propertyName, tags.definition(tags.propertyName)],
    color: 'var(--cobalt)',
  },
  { tag: [tags.string, tags.attributeValue], color: 'var(--moss)' },
  { tag: [tags.number, tags.bool, tags.atom], color: 'var(--terracotta)' },
  { tag: tags.comment, color: 'var(--muted)', fontStyle: 'italic' },
  { tag: [tags.meta, tags.processingInstruction], color: 'var(--muted)' },
  { tag: [tags.heading, tags.strong], fontWeight: '700' },
  { tag: tags.emphasis, fontStyle: 'italic' },
  { tag: [tags.attributeName, tags.variableName], color: 'var(--ochre)' },
])

interface Props extends CursorHandlers {
  text: string
  language: Language
  height: string
  line?: number | undefined
  /** Those that are hints do not keep the text from being saved. */
  problems?: readonly (ProblemItem & { isHint?: boolean })[]
  onChange?: (text: string) => void
  /** Called once the editor exists, for buttons that act on it. */
  onView?: (view: EditorView) => void
  label: string
  /** Completes text at the cursor. It must stay the same function. */
  complete?: Complete | undefined
}

/** @param at the position of the cursor in the text */
export type Complete = (text: string, at: number) => Completed | undefined | Promise<Completed | undefined>

export interface Completed {
  from: number
  choices: readonly { value: string; detail: string }[]
}

/** Whether the sign before the cursor asks for a name: a field after a dot, a name after a quote. */
const isAfterSign = ({ state, pos }: CompletionContext) => /[.'"]$/.test(state.sliceDoc(pos - 1, pos))

const completionOf = (complete: Complete) =>
  autocompletion({
    override: [
      async (context) => {
        const found = await complete(context.state.doc.toString(), context.pos)
        // Without an explicit request, only once a word is started.
        if (!found || (!context.explicit && found.from === context.pos && !isAfterSign(context))) return null
        const options = found.choices.map(({ value, detail }) => ({ label: value, detail }))
        return { from: found.from, options, validFor: /^[\w/-]*$/ }
      },
    ],
  })

export function CodeEditor({
  text,
  language,
  height,
  line,
  problems = [],
  onChange,
  onView,
  label,
  complete,
  onLine,
  onSelection,
  describe,
  follow,
}: Props) {
  const [tools] = useState(() => new CursorTools())
  useEffect(() => tools.use({ onLine, onSelection, describe, follow }))
  const ref = useRef<ReactCodeMirrorRef>(null)
  const extensions = useMemo(
    () => [
      LANGUAGES[language](),
      colours,
      syntaxHighlighting(marks),
      lintGutter(),
      EditorView.lineWrapping,
      // The keyboard scrolls it, also where it is read-only.
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      EditorState.tabSize.of(2),
      ...(complete ? [completionOf(complete)] : []),
      tools.extensions,
    ],
    [language, label, complete, tools],
  )
  const markProblems = () => {
    const view = ref.current?.view
    if (view)
      view.dispatch(
        setDiagnostics(
          view.state,
          problems.flatMap((one) => diagnosticOf(view.state, one)),
        ),
      )
  }
  useEffect(markProblems)
  const goTo = (view: EditorView) => {
    if (line === undefined || line > view.state.doc.lines) return
    const { from } = view.state.doc.line(line)
    view.dispatch({
      selection: { anchor: from },
      effects: EditorView.scrollIntoView(from, { y: 'start', yMargin: 40 }),
    })
  }
  useEffect(() => {
    const view = ref.current?.view
    if (view) goTo(view)
    // eslint-disable-next-line react-hooks/exhaustive-deps -- only a new line moves the view, not every keystroke
  }, [line])
  return (
    <CodeMirror
      ref={ref}
      value={text}
      height={height}
      theme="none"
      extensions={extensions}
      editable={onChange !== undefined}
      basicSetup={{ foldGutter: false, highlightActiveLine: onChange !== undefined }}
      onCreateEditor={(view) => {
        onView?.(view)
        requestAnimationFrame(() => goTo(view))
      }}
      onChange={(value) => onChange?.(value)}
    />
  )
}

function diagnosticOf(state: EditorState, problem: ProblemItem & { isHint?: boolean }): Diagnostic[] {
  const { doc } = state
  const line = doc.line(Math.min(Math.max(problem.line ?? 1, 1), doc.lines))
  const from = Math.min(line.from + Math.max((problem.column ?? 1) - 1, 0), line.to)
  const message = problem.hint === undefined ? problem.message : `${problem.message} ${problem.hint}`
  const severity = problem.isHint ? 'warning' : 'error'
  return [{ from, to: Math.max(line.to, from), severity, message }]
}
