/** Fenced code with its words marked by kind, made on the server: readers load no script for it. */
import highlighter from 'highlight.js/lib/common'

/** Longer code is shown plain: marking takes time in proportion, and nobody reads it in colours. */
const LIMIT = 30_000

highlighter.configure({ classPrefix: 'code-' })

/** @returns escaped HTML with `<span class="code-…">`, or an empty text for a language that is not known */
export function highlightCode(code: string, language: string): string {
  const name = language.toLowerCase()
  if (code.length > LIMIT || !highlighter.getLanguage(name)) return ''
  return highlighter.highlight(code, { language: name, ignoreIllegals: true }).value
}
