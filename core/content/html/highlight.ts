/** Syntax highlighting of fenced code on the server, so that readers need no script. */
import highlighter from 'highlight.js/lib/common'

/** The maximum length of code that is highlighted, in characters. Longer code stays plain. */
const LIMIT = 30_000

/** The start of the classes in code. */
export const CODE_CLASS = 'code-'

highlighter.configure({ classPrefix: CODE_CLASS })

/** Returns escaped HTML with `<span class="code-…">`, or an empty text if the language is unknown. */
export function highlightCode(code: string, language: string): string {
  const name = language.toLowerCase()
  if (code.length > LIMIT || !highlighter.getLanguage(name)) return ''
  return highlighter.highlight(code, { language: name, ignoreIllegals: true }).value
}
