/** Renames a value that a template assigns, or an argument of a partial with what its callers pass. */
import type { Worded } from '../../shapes/catalogue.ts'
import type { DocumentChange } from '../../shapes/changes.ts'
import { documentName, templatePath } from '../../shapes/documents.ts'
import { refused, type Outcome } from '../../shapes/outcome.ts'
import { namesRead } from '../../templates/names.ts'
import { SHARED_NAMES } from '../../templates/shared-names.ts'
import { nodesOf, type TemplateNode } from '../../templates/tree.ts'
import { namedAt } from '../../templates/authoring/under-cursor.ts'
import type { Definition } from '../definition.ts'
import { EXTRACT_PROBLEMS, REARRANGING_PROBLEMS } from '../problems.ts'
import type { TextPlace } from './inline-partial.ts'
import { bindingsOf, namesIn, offsetOf, pathsNamed, replaced, type Stretch } from './places.ts'
import { rearranged, type Rearranged } from './rearranged.ts'

/** Names that loops and blocks give. */
const FIXED = new Set(['forloop', 'tablerowloop', 'block', 'true', 'false', 'nil', 'null', 'empty', 'blank'])

export function renameValue(
  definition: Definition,
  documents: ReadonlyMap<string, string>,
  { document, text, at, to }: TextPlace & { to: string },
): Outcome<Rearranged> {
  const { templates } = definition
  const own = documentName(document)
  const tree = templates.parsed(text, own)
  if (!tree) return refused({ file: document, ...EXTRACT_PROBLEMS['extract-part-of-tag']() })
  const refuse = (problem: Worded) => refused({ file: document, ...problem })
  const named = namedAt(text, at)
  const name = named?.kind === 'path' ? (/^[\w-]+/.exec(named.value)?.[0] ?? '') : ''
  const find = (one: string) => templates.tree(one)
  const bindings = bindingsOf(text, tree, name)
  const paths = pathsNamed(text, tree, name)
  if (!bindings || !paths) return refuse(REARRANGING_PROBLEMS['rename-use-unclear'](lineOf(text, at)))
  if (bindings.length + paths.length === 0) return refuse(REARRANGING_PROBLEMS['rename-value-nothing']())
  const isPartial = own.startsWith('partials/')
  const isGiven = isPartial && namesRead(tree, find, { fragments: 'follow' }).has(name)
  if (SHARED_NAMES.has(name) || FIXED.has(name) || (bindings.length === 0 && !isGiven))
    return refuse(REARRANGING_PROBLEMS['rename-value-data'](name))
  if (!/^[A-Za-z_]\w*$/.test(to) || FIXED.has(to))
    return refuse(REARRANGING_PROBLEMS['rename-value-name'](to))
  if (SHARED_NAMES.has(to) || namesIn(tree).has(to))
    return refuse(REARRANGING_PROBLEMS['rename-value-taken'](to, document))
  // A layout sees what its pages assign, and a partial that is rendered here sees only what it is given.
  for (const node of nodesOf(tree)) {
    if (node.kind !== 'layout' || typeof node.template !== 'string') continue
    if (namesRead(find(node.template) ?? [], find, { fragments: 'follow' }).has(name))
      return refuse(REARRANGING_PROBLEMS['rename-value-layout'](name, templatePath(node.template)))
  }
  const change = (before: string, stretches: readonly Stretch[]) =>
    replaced(
      before,
      stretches.map((one) => ({ ...one, by: to })),
    )
  const texts = new Map<string, string>([[document, change(text, [...bindings, ...paths])]])
  if (isGiven)
    for (const [template] of templates.mentions()) {
      const path = templatePath(template)
      const before = texts.get(path) ?? documents.get(path) ?? ''
      const nodes = path === document ? templates.parsed(before, template) : templates.tree(template)
      const passed = argumentsNamed(before, nodes ?? [], own, name)
      if (typeof passed === 'number')
        return refused({ file: path, ...REARRANGING_PROBLEMS['rename-use-unclear'](passed) })
      if (passed.length > 0) texts.set(path, change(before, passed))
    }
  const changes: DocumentChange[] = [...texts].map(([path, changed]) => ({ document: path, text: changed }))
  return rearranged(definition, documents, { changes, deleted: [] }, document)
}

/** Returns where an argument is passed to a partial by its name, or the line of a tag in which it is not found. */
function argumentsNamed(
  text: string,
  nodes: readonly TemplateNode[],
  partial: string,
  name: string,
): Stretch[] | number {
  const found: Stretch[] = []
  for (const node of nodesOf(nodes)) {
    if (node.kind !== 'render' || node.template !== partial) continue
    const given = node.given.find((one) => one.name === name)
    if (!given) continue
    const start = offsetOf(text, node.place)
    const tag = /^[\s\S]*?(?:%\}|$)/.exec(text.slice(start))?.[0] ?? ''
    const [, before] =
      new RegExp(
        `^((?:[^'"]|'[^']*'|"[^"]*")*?[,\\s])${name}\\s*${given.isEach ? '(?=[\\s,%-])' : ':'}`,
      ).exec(tag) ?? []
    if (before === undefined) return node.place.line
    found.push({ from: start + before.length, to: start + before.length + name.length })
  }
  return found
}

const lineOf = (text: string, at: number) => text.slice(0, at).split('\n').length
