/** What of a fragment differs between readers or requests, or cannot be rendered on its own: such a save is refused. */
import type { Worded } from '../shapes/catalogue.ts'
import { namesRead, type FindTree } from './names.ts'
import { FRAGMENT_PROBLEMS } from './problems.ts'
import { readsOfBody } from './reads.ts'
import {
  bodiesOf,
  expressionsOf,
  nodesOf,
  operandsOf,
  pathsOf,
  type Expression,
  type NodeOf,
  type Place,
  type TemplateNode,
} from './tree.ts'

export interface FragmentProblem {
  template: string
  place: Place
  worded: Worded
}

/** The steps into `request` that are the same for everyone who requests a page. */
const SHARED_REQUEST = new Set(['path', 'route', 'params', 'canonical'])
const OF_VISITOR = new Set(['form', 'visitor'])
/** Links to other pages of a listing keep the other parameters of the request. */
const PAGE_LINK = /(^|\.)url$/
/** Names whose addresses are the same for everyone. */
const PLAIN_ADDRESSES = ['nearest', 'request']

/**
 * Yields the problems of a fragment.
 * @param tree of the template that has the fragment
 */
export function* fragmentProblems(
  fragment: NodeOf<'fragment'>,
  template: string,
  tree: readonly TemplateNode[],
  find: FindTree,
): Generator<FragmentProblem> {
  const { name, body } = fragment
  const outside = namesRead(body, find, { fragments: 'follow' })
  for (const { node, template: file, isInLoop } of closure(body, template, find)) {
    if (node.kind === 'block' || node.kind === 'layout')
      yield {
        template: file,
        place: node.place,
        worded: FRAGMENT_PROBLEMS['fragment-has-block'](name, node.kind),
      }
    if (node.kind === 'jump' && !isInLoop)
      yield {
        template: file,
        place: node.place,
        worded: FRAGMENT_PROBLEMS['fragment-ends-loop'](name, node.tag),
      }
    for (const expression of expressionsOf(node))
      for (const problem of ofExpression(name, expression, outside)) yield { template: file, ...problem }
  }
  for (const { template: file, line, path } of readsOfBody(find, body, template, outside, PLAIN_ADDRESSES))
    if (PAGE_LINK.test(path))
      yield {
        template: file,
        place: { line, column: 1 },
        worded: FRAGMENT_PROBLEMS['fragment-has-page-links'](name, path),
      }
  yield* assignedOutside(fragment, template, tree)
}

function* ofExpression(
  name: string,
  expression: Expression,
  outside: ReadonlySet<string>,
): Generator<Omit<FragmentProblem, 'template'>> {
  for (const { root, steps, place } of pathsOf(expression)) {
    if (typeof root !== 'string' || !outside.has(root)) continue
    if (OF_VISITOR.has(root)) yield { place, worded: FRAGMENT_PROBLEMS['fragment-reads-visitor'](name, root) }
    const [first] = steps
    if (root === 'request' && (typeof first !== 'string' || !SHARED_REQUEST.has(first)))
      yield {
        place,
        worded: FRAGMENT_PROBLEMS['fragment-reads-request'](
          name,
          typeof first === 'string' ? `request.${first}` : 'request',
        ),
      }
  }
  if (filtersIn(expression).includes('url_with'))
    yield { place: expression.place, worded: FRAGMENT_PROBLEMS['fragment-reads-request'](name, 'url_with') }
}

const filtersIn = (expression: Expression): string[] => [
  ...expression.filters.map((one) => one.name),
  ...[...operandsOf(expression)].flatMap((one) =>
    one.kind === 'expression' ? filtersIn(one.expression) : [],
  ),
]

/** Yields the variables that a body assigns and that its template reads after the fragment: a copy assigns nothing. */
function* assignedOutside(
  { name, body, place }: NodeOf<'fragment'>,
  template: string,
  tree: readonly TemplateNode[],
): Generator<FragmentProblem> {
  const own = new Set(nodesOf(body))
  const assigned = new Map<string, Place>()
  for (const node of own)
    if (node.kind === 'assign' || node.kind === 'capture') assigned.set(node.name, node.place)
  if (assigned.size === 0) return
  const reported = new Set<string>()
  for (const node of nodesOf(tree)) {
    if (own.has(node)) continue
    for (const expression of expressionsOf(node))
      for (const { root, place: read } of pathsOf(expression)) {
        const at = typeof root === 'string' ? assigned.get(root) : undefined
        if (at === undefined || typeof root !== 'string' || reported.has(root) || !isAfter(read, place))
          continue
        reported.add(root)
        yield { template, place: at, worded: FRAGMENT_PROBLEMS['fragment-assigns'](name, root, read.line) }
      }
  }
}

const isAfter = (a: Place, b: Place) => a.line > b.line || (a.line === b.line && a.column > b.column)

interface Located {
  node: TemplateNode
  template: string
  isInLoop: boolean
}

/** Yields all nodes of a body and of the partials that it renders, each partial once. */
function* closure(
  nodes: readonly TemplateNode[],
  template: string,
  find: FindTree,
  isInLoop = false,
  seen = new Set<string>(),
): Generator<Located> {
  for (const node of nodes) {
    yield { node, template, isInLoop }
    const inLoop = isInLoop || node.kind === 'loop'
    for (const body of bodiesOf(node)) yield* closure(body, template, find, inLoop, seen)
    if (node.kind === 'render' && node.template !== null && !seen.has(node.template)) {
      seen.add(node.template)
      yield* closure(find(node.template) ?? [], node.template, find, inLoop, seen)
    }
  }
}
