/** Edits a query's YAML part by part. Comments and everything else stay where they are. */
import { isCollection, isMap, isNode, isScalar, isSeq, parseDocument, visit, type Document } from 'yaml'

export type QueryPart = string | number | boolean | null | QueryPart[] | { [key: string]: QueryPart }

/** The usual order of a query's keys. */
const ORDER = ['from', 'with', 'where', 'count-by', 'order', 'take', 'pages', 'empty']

/**
 * Sets the value at a path of the query, such as `['where', 1, 'is']`; undefined removes it.
 * @returns undefined if the text is not YAML or not a map
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
    // Conditions of one word are written side by side, as in `[published]`; others have a line each.
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

/** Removes lists and maps that have become empty. */
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
  // A condition is written on one line, and so are short lists; a list of conditions has a line for each.
  if (isMap(node) || (isSeq(node) && path.at(-1) !== 'where')) node.flow = true
  const before = document.getIn(path, true)
  if (isNode(before) && isNode(node)) {
    node.comment = before.comment ?? null
    node.commentBefore = before.commentBefore ?? null
  }
  return node
}

/** Inserts a new key at its usual place. */
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

/** Formats `[a, b]` without, and `{ a: b }` with inner spaces, as usual by hand. */
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

/** Adds a relation or a count to those that a query fetches. */
export function fetchAlso(text: string, name: string): string {
  const query = (parseDocument(text).toJS() ?? {}) as { with?: QueryPart[] }
  const known = query.with ?? []
  return known.includes(name) ? text : (changeQuery(text, ['with'], [...known, name]) ?? text)
}
