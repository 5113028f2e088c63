/** Changes of a query's YAML, part by part: comments and everything else stay where they are. */
import { isCollection, isMap, isNode, isScalar, isSeq, parseDocument, visit, type Document } from 'yaml'

export type QueryPart = string | number | boolean | null | QueryPart[] | { [key: string]: QueryPart }

/** The order in which one writes a query. */
const ORDER = ['from', 'with', 'where', 'count-by', 'order', 'take', 'pages', 'empty']

/**
 * Puts a value at a place of the query, e.g. `['where', 1, 'is']`; undefined takes it away.
 * @returns undefined where the text cannot be changed so: it is no YAML, or no map
 */
export function changeQuery(
  text: string,
  path: readonly (string | number)[],
  value: QueryPart | undefined,
): string | undefined {
  const document = parseDocument(text)
  if (document.errors.length > 0 || !isMap(document.contents)) return undefined
  if (value === undefined) takeAway(document, path)
  else {
    const node = madeNode(document, path, value)
    document.setIn(path, node)
    // Conditions of one word stand beside each other, as `[published]`; others have a line each.
    const where = path.length === 2 && path[0] === 'where' ? document.get('where', true) : undefined
    if (isSeq(where) && where.flow === true && isMap(node)) {
      where.flow = false
      where.commentBefore = where.comment ?? null
      where.comment = null
    }
  }
  inOrder(document)
  return withTightLists(document.toString({ lineWidth: 0, flowCollectionPadding: true }))
}

/** A list or map that nothing is left in goes, too. */
function takeAway(document: Document, path: readonly (string | number)[]): void {
  document.deleteIn(path)
  for (let length = path.length - 1; length > 0; length--) {
    const above = document.getIn(path.slice(0, length), true)
    if (!isCollection(above) || above.items.length > 0) return
    document.deleteIn(path.slice(0, length))
  }
}

function madeNode(document: Document, path: readonly (string | number)[], value: QueryPart): unknown {
  const node = document.createNode(value)
  // A condition stands on one line, and so do short lists; a list of conditions has a line for each.
  if (isMap(node) || (isSeq(node) && path.at(-1) !== 'where')) node.flow = true
  const before = document.getIn(path, true)
  if (isNode(before) && isNode(node)) {
    node.comment = before.comment ?? null
    node.commentBefore = before.commentBefore ?? null
  }
  return node
}

/** A new key comes where one looks for it. */
function inOrder({ contents }: Document): void {
  if (!isMap(contents)) return
  const nameOf = ({ key }: { key: unknown }) => String(isScalar(key) ? key.value : key)
  const names = contents.items.map(nameOf)
  const last = names.at(-1)
  if (last === undefined || !ORDER.includes(last)) return
  const place = names.findIndex(
    (one, at) => at < names.length - 1 && ORDER.indexOf(one) > ORDER.indexOf(last),
  )
  if (place === -1) return
  const [moved] = contents.items.splice(-1)
  if (moved) contents.items.splice(place, 0, moved)
}

/** `[a, b]` beside `{ a: b }`: as one writes them by hand. */
function withTightLists(text: string): string {
  const spaces: number[] = []
  visit(parseDocument(text), {
    Seq(_, { flow, range }) {
      if (flow !== true || !range) return
      const [start, end] = range
      if (text[start + 1] === ' ') spaces.push(start + 1)
      if (text[end - 2] === ' ') spaces.push(end - 2)
    },
  })
  const gone = new Set(spaces)
  let kept = ''
  for (let at = 0; at < text.length; at++) if (!gone.has(at)) kept += text.charAt(at)
  return kept
}
