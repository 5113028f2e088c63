/** Finds Markdown that readers see as it was typed, or that swallows the rest of a text (markdown-it). */
import type { Token } from 'markdown-it'
import { markdownTokens } from './markdown.ts'

export interface MarkdownFault {
  kind:
    | 'fence-open'
    | 'link-typed'
    | 'emphasis-typed'
    | 'template-typed'
    | 'block-typed'
    | 'image-unnamed'
    | 'text-empty'
  /** 1-based. */
  line: number
  /** What was typed. */
  typed: string
}

/** Parts of a text that readers see although they are meant as markup. */
const TYPED = [
  // `[text] (address)`, and a link whose address is refused, such as a script.
  ['link-typed', /!?\[[^\][\n]+\]\s?\((?:\/|\.|#|[a-z]+:)[^\s()]*\)?/i],
  // A note that the text does not have.
  ['link-typed', /\[\^[^\][\s]+\]/],
  // A heading without a space, and a table whose rows differ.
  ['block-typed', /^#{2,6}[^\s#].*|\|\s*:?-{3,}.*/],
  ['template-typed', /\{\{[^{}\n]*\}\}|\{%[^{}\n]*%\}/],
  ['emphasis-typed', /(?<![\w*])\*\*(?=[^\s*])[^*\n]*/],
] as const

/** A fence that closes a block of code: as many signs, or more, and nothing else. */
const isClosed = ({ markup, map }: Token, lines: readonly string[]): boolean => {
  const last = lines[(map?.[1] ?? 1) - 1]?.trim().replace(/^(>\s?)+/, '') ?? ''
  return (map?.[1] ?? 0) - (map?.[0] ?? 0) > 1 && last.startsWith(markup) && !/[^`~]/.test(last)
}

/** Returns the faults of a text in the order of its lines. */
export function markdownFaults(text: string): MarkdownFault[] {
  if (text.trim() === '') return [{ kind: 'text-empty', line: 1, typed: '' }]
  const lines = text.split('\n')
  const found: MarkdownFault[] = []
  for (const token of markdownTokens(text)) {
    const line = (token.map?.[0] ?? 0) + 1
    if (token.type === 'fence' && !isClosed(token, lines))
      found.push({ kind: 'fence-open', line, typed: lines[line - 1]?.trim() ?? '' })
    if (token.type === 'inline') found.push(...inlineFaults(token, line))
  }
  return found
}

function inlineFaults({ children }: Token, line: number): MarkdownFault[] {
  const found: MarkdownFault[] = []
  let at = line
  let shown = ''
  const items = (children ?? []).filter((one) => one.type === 'text' && /^[-+][^\s\d+-]/.test(one.content))
  if (items.length > 1) found.push({ kind: 'block-typed', line, typed: items[0]?.content ?? '' })
  const endText = () => {
    for (const [kind, wanted] of TYPED) {
      const typed = wanted.exec(shown)?.[0].trim()
      if (typed !== undefined) found.push({ kind, line: at, typed })
    }
    shown = ''
  }
  for (const child of children ?? []) {
    // Parts of a text are apart where a sign could have been markup.
    if (child.type === 'text') shown += child.content
    else endText()
    if (child.type === 'image' && child.content.trim() === '')
      found.push({ kind: 'image-unnamed', line: at, typed: `![](${child.attrGet('src') ?? ''})` })
    if (child.type === 'softbreak' || child.type === 'hardbreak') at++
  }
  endText()
  return found
}
