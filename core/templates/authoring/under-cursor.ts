/** Finds what a template names at an offset: a path, or a text in quotes. */

export interface Named {
  kind: 'path' | 'text'
  /** The path up to the step at the offset: `post.category` of `post.category.name`; a text without its quotes. */
  value: string
  from: number
  to: number
}

/** Whether an offset is inside `{{ … }}` or `{% … %}`. @returns the offset after the opening braces */
export function insideBraces(text: string, at: number): number | undefined {
  const before = text.slice(0, at)
  const open = Math.max(before.lastIndexOf('{{'), before.lastIndexOf('{%'))
  if (open === -1 || open < Math.max(before.lastIndexOf('}}'), before.lastIndexOf('%}'))) return undefined
  return open + 2
}

const PART = /'([^'\n]*)'|"([^"\n]*)"|[a-zA-Z_][\w-]*(?:\.[\w-]+|\[\d+\])*/g

/** Returns what is named at an offset; undefined outside braces. */
export function namedAt(text: string, at: number): Named | undefined {
  const begin = insideBraces(text, at)
  if (begin === undefined) return undefined
  const line = text.slice(begin, (text.indexOf('\n', at) + 1 || text.length + 1) - 1)
  for (const found of line.matchAll(PART)) {
    const from = begin + found.index
    const to = from + found[0].length
    if (at < from) return undefined
    if (at > to) continue
    const quoted = found[1] ?? found[2]
    if (quoted !== undefined) return { kind: 'text', value: quoted, from, to }
    const next = /[.[]/.exec(text.slice(Math.max(at, from + 1), to))
    const end = next ? Math.max(at, from + 1) + next.index : to
    return { kind: 'path', value: text.slice(from, end), from, to: end }
  }
  return undefined
}
