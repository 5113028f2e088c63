/** Puts the text of a partial where it is rendered. */
import { documentName, templatePath } from '../../shapes/documents.ts'
import { refused, type Outcome } from '../../shapes/outcome.ts'
import { namesRead } from '../../templates/names.ts'
import { SHARED_NAMES } from '../../templates/shared-names.ts'
import { nodesOf, type Given, type NodeOf, type TemplateNode } from '../../templates/tree.ts'
import type { Definition } from '../definition.ts'
import { EXTRACT_PROBLEMS, REARRANGING_PROBLEMS } from '../problems.ts'
import {
  bindingsOf,
  boundBy,
  namesIn,
  offsetOf,
  pathsNamed,
  replaced,
  tagAt,
  type Stretch,
} from './places.ts'
import { rearranged, type Rearranged } from './rearranged.ts'

export interface TextPlace {
  document: string
  /** Its text, saved or not. */
  text: string
  /** An offset in the text. */
  at: number
}

/** Deletes the partial as well if nothing else renders it. */
export function inlinePartial(
  definition: Definition,
  documents: ReadonlyMap<string, string>,
  { document, text, at }: TextPlace,
): Outcome<Rearranged> {
  const { templates } = definition
  const problem = (of: 'inline-nothing' | 'inline-each') =>
    refused({ file: document, ...REARRANGING_PROBLEMS[of]() })
  const tree = templates.parsed(text, documentName(document))
  if (!tree) return refused({ file: document, ...EXTRACT_PROBLEMS['extract-part-of-tag']() })
  const found = renderAt(tree, text, at)
  const name = found?.node.template
  const path = templatePath(name ?? '')
  const partial = documents.get(path)
  const body = templates.tree(name ?? '')
  if (!found || typeof name !== 'string' || partial === undefined || !body) return problem('inline-nothing')
  const { node, tag } = found
  if (node.given.some((one) => one.isEach)) return problem('inline-each')
  const state = stateIn(body)
  if (state !== undefined) return refused({ file: document, ...REARRANGING_PROBLEMS['inline-state'](state) })
  const read = namesRead(body, (one) => templates.tree(one), { fragments: 'follow' })
  const given = node.given.filter((one) => read.has(one.name))
  /** What is not passed is nothing in the partial, but may be something here. */
  const missing = [...read].filter(
    (one) => !SHARED_NAMES.has(one) && !node.given.some((other) => other.name === one),
  )
  const taken = new Set([...namesIn(tree), ...namesIn(body), ...SHARED_NAMES, ...rootsOf(given)])
  const changes: (Stretch & { by: string })[] = []
  const assigned: string[] = []
  const rename = (from: string, by: string): boolean => {
    const places = [pathsNamed(partial, body, from), bindingsOf(partial, body, from)]
    for (const one of places) changes.push(...(one ?? []).map((stretch) => ({ ...stretch, by })))
    return places.every((one) => one !== undefined)
  }
  const own = new Set([...nodesOf(body)].flatMap((one) => boundBy(one) ?? []))
  const inHost = new Set([...namesIn(tree), ...rootsOf(given), ...namesBeside(definition, document, tree)])
  let isClear = true
  for (const one of own)
    if (inHost.has(one) && !read.has(one)) isClear = rename(one, freeName(one, taken)) && isClear
  const assign = (name: string, value: string) => {
    const local = inHost.has(name) ? freeName(name, taken) : name
    if (local !== name) isClear = rename(name, local) && isClear
    assigned.push(`{% assign ${local} = ${value} %}`)
  }
  for (const one of missing) assign(one, 'nil')
  for (const one of given) {
    if (isPath(one) && !own.has(one.name)) {
      if (one.text !== one.name) isClear = rename(one.name, one.text) && isClear
      continue
    }
    // What the partial changes gets a name of its own, like a value that is no path.
    assign(one.name, one.text === '' ? 'true' : one.text)
  }
  if (!isClear)
    return refused({ file: document, ...REARRANGING_PROBLEMS['rename-use-unclear'](node.place.line) })

  const line = text.slice(text.lastIndexOf('\n', tag.from - 1) + 1, tag.from)
  const indentation = /^[ \t]*$/.test(line) ? line : ''
  const isWholeLine = line === indentation
  const inlined = replaced(partial, changes)
    .trimEnd()
    .split('\n')
    .map((one, index) => ((index === 0 && assigned.length === 0) || one === '' ? one : indentation + one))
    .join('\n')
  const placed = isWholeLine
    ? [...assigned.map((one, index) => (index === 0 ? one : indentation + one)), inlined].join('\n')
    : assigned.join('') + inlined
  const isLast = [...templates.mentions()].every(([template, { templates: named }]) =>
    named.every(
      (one) =>
        one.name !== name || (templatePath(template) === document && offsetOf(text, one.place) === tag.from),
    ),
  )
  // What the tag trims is trimmed.
  const isTrimmed = (mark: string) => !isWholeLine && text.slice(tag.from, tag.to).includes(mark)
  const [before, after] = [text.slice(0, tag.from), text.slice(tag.to)]
  const change = {
    changes: [
      {
        document,
        text:
          (isTrimmed('{%-') ? before.trimEnd() : before) +
          placed +
          (isTrimmed('-%}') ? after.trimStart() : after),
      },
    ],
    deleted: isLast ? [path] : [],
  }
  return rearranged(definition, documents, change, document)
}

/** Returns the names in templates that see what this one assigns: its layouts, or the pages of a layout. */
function* namesBeside(
  { templates }: Definition,
  document: string,
  tree: readonly TemplateNode[],
): Generator<string> {
  const isLayout = document.startsWith('templates/layouts/')
  for (const node of nodesOf(tree))
    if (node.kind === 'layout' && typeof node.template === 'string')
      for (const one of templates.closure(node.template)) yield* namesIn(templates.tree(one) ?? [])
  if (isLayout) for (const [one] of templates.mentions()) yield* namesIn(templates.tree(one) ?? [])
}

/** Returns the tag at an offset that renders a partial. */
function renderAt(
  tree: readonly TemplateNode[],
  text: string,
  at: number,
): { node: NodeOf<'render'>; tag: Stretch } | undefined {
  for (const node of nodesOf(tree)) {
    if (node.kind !== 'render') continue
    const tag = tagAt(text, offsetOf(text, node.place))
    if (tag && tag.from <= at && at <= tag.to) return { node, tag }
  }
  return undefined
}

/** Returns the tag of a partial that would mean something else elsewhere. */
function stateIn(body: readonly TemplateNode[]): string | undefined {
  for (const node of nodesOf(body)) {
    if (node.kind === 'cycle' || node.kind === 'block' || node.kind === 'layout') return node.kind
    if (node.kind === 'count') return node.by === 1 ? 'increment' : 'decrement'
    if (node.kind === 'jump') return node.tag
  }
  return undefined
}

/** Whether the value is a path that can stand wherever the argument is read: `post`, `entry.post`. */
const isPath = ({ expression, text }: Given): boolean =>
  /^[A-Za-z_][\w-]*(\.[A-Za-z_][\w-]*)*$/.test(text) && expression.operands[0]?.kind === 'path'

const rootsOf = (given: readonly Given[]): string[] =>
  given.flatMap(({ expression }) =>
    expression.operands.flatMap((one) =>
      one.kind === 'path' && typeof one.root === 'string' ? one.root : [],
    ),
  )

/** Returns a similar name that is not taken, and takes it. */
function freeName(name: string, taken: Set<string>): string {
  for (let number = 2; ; number++) {
    const free = `${name}_${number}`
    if (taken.has(free)) continue
    taken.add(free)
    return free
  }
}
