/** Finds in the text of a template what its tree names. */
import { expressionsOf, nodesOf, pathsOf, type Place, type TemplateNode } from '../../templates/tree.ts'

/** A stretch of a text. */
export interface Stretch {
  from: number
  to: number
}

/** Returns the offset of a place. */
export function offsetOf(text: string, { line, column }: Place): number {
  let at = 0
  for (let before = 1; before < line; before++) at = text.indexOf('\n', at) + 1
  return at + column - 1
}

/**
 * Returns where the paths are that begin with a name.
 * @returns undefined if one of them is not found: an expression in a text in quotes
 */
export function pathsNamed(
  text: string,
  nodes: readonly TemplateNode[],
  name: string,
): Stretch[] | undefined {
  const found = new Map<number, Stretch>()
  for (const node of nodesOf(nodes))
    for (const expression of expressionsOf(node))
      for (const { root, place } of pathsOf(expression)) {
        if (root !== name) continue
        const from = offsetOf(text, place)
        if (!isNameAt(text, from, name)) return undefined
        found.set(from, { from, to: from + name.length })
      }
  return [...found.values()]
}

/**
 * Returns where a name is bound: by `assign`, `capture`, a counter or a loop.
 * @returns undefined if one of the places is not found
 */
export function bindingsOf(
  text: string,
  nodes: readonly TemplateNode[],
  name: string,
): Stretch[] | undefined {
  const found: Stretch[] = []
  for (const node of nodesOf(nodes)) {
    if (boundBy(node) !== name) continue
    // In a `liquid` tag, the place is that of the tag's own line.
    const start = offsetOf(text, node.place)
    const [before] = /^(?:\{%-?\s*)?(?:\w+\s+)/.exec(text.slice(start, start + 200)) ?? []
    const from = start + (before?.length ?? 0)
    if (before === undefined || !isNameAt(text, from, name)) return undefined
    found.push({ from, to: from + name.length })
  }
  return found
}

/** Returns the name that a node binds in its template. */
export function boundBy(node: TemplateNode): string | undefined {
  switch (node.kind) {
    case 'assign':
    case 'capture':
    case 'count':
      return node.name
    case 'loop':
      return node.variable
    default:
      return undefined
  }
}

/** Returns all names that a template binds, or with which its paths begin. */
export function namesIn(nodes: readonly TemplateNode[]): Set<string> {
  const names = new Set<string>()
  for (const node of nodesOf(nodes)) {
    const bound = boundBy(node)
    if (bound !== undefined) names.add(bound)
    for (const expression of expressionsOf(node))
      for (const { root } of pathsOf(expression)) if (typeof root === 'string') names.add(root)
  }
  return names
}

/** Returns the stretch of a tag that begins at an offset; undefined for a tag without delimiters. */
export function tagAt(text: string, from: number): Stretch | undefined {
  if (!text.startsWith('{%', from)) return undefined
  const end = text.indexOf('%}', from)
  return end === -1 ? undefined : { from, to: end + 2 }
}

/** Replaces stretches of a text, which do not overlap. */
export const replaced = (text: string, changes: readonly (Stretch & { by: string })[]): string =>
  [...changes]
    .sort((a, b) => b.from - a.from)
    .reduce((changed, { from, to, by }) => changed.slice(0, from) + by + changed.slice(to), text)

const isNameAt = (text: string, from: number, name: string): boolean =>
  text.startsWith(name, from) && !/[\w-]/.test(text[from + name.length] ?? '')
