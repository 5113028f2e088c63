/** Moves a selection of a template into a partial of its own, with the arguments that it needs. */
import { refused, success, type Outcome } from '../../shapes/outcome.ts'
import type { DocumentChange } from '../../shapes/changes.ts'
import { templatePath } from '../../shapes/documents.ts'
import { namesRead } from '../../templates/names.ts'
import { SHARED_NAMES } from '../../templates/shared-names.ts'
import { bodiesOf, type TemplateNode } from '../../templates/tree.ts'
import type { Definition } from '../definition.ts'
import { EXTRACT_PROBLEMS } from '../problems.ts'

export interface Selection {
  /** The document with the selection. */
  document: string
  /** Its text, saved or not. */
  text: string
  /** Offsets in the text. */
  from: number
  to: number
  /** The name of the new partial, without its folder. */
  name: string
}

/** Returns the changes, or why the selection cannot be moved. */
export function extractPartial(
  { templates }: Pick<Definition, 'templates'>,
  documents: ReadonlyMap<string, string>,
  { document, text, from, to, name }: Selection,
): Outcome<{ changes: DocumentChange[]; given: string[] }> {
  const partial = `partials/${name}`
  const path = templatePath(partial)
  const selected = text.slice(from, to)
  if (documents.has(path)) return refused({ file: path, ...EXTRACT_PROBLEMS['extract-name-taken'](path) })
  if (selected.trim() === '') return refused({ file: document, ...EXTRACT_PROBLEMS['extract-nothing']() })
  const tree = templates.parsed(selected, partial)
  const rest = tree && templates.parsed(`${text.slice(0, from)}${text.slice(to)}`, document)
  if (!tree || !rest) return refused({ file: document, ...EXTRACT_PROBLEMS['extract-part-of-tag']() })
  const own = [...nodesIn(tree)]
  const placed = own.find((one) => one.kind === 'block' || one.kind === 'layout' || one.kind === 'jump')
  if (placed) return refused({ file: document, ...EXTRACT_PROBLEMS['extract-block']() })
  const find = (one: string) => templates.tree(one)
  const after = templates.parsed(text.slice(to), document) ?? rest
  const read = namesRead(after, find, { fragments: 'follow' })
  const lost = own
    .flatMap((one) => (one.kind === 'assign' || one.kind === 'capture' ? [one.name] : []))
    .find((one) => read.has(one))
  if (lost !== undefined) return refused({ file: document, ...EXTRACT_PROBLEMS['extract-assigned'](lost) })
  const given = [...namesRead(tree, find, { fragments: 'follow' })]
    .filter((one) => !SHARED_NAMES.has(one))
    .sort()
  const line = text.slice(text.lastIndexOf('\n', from - 1) + 1, from)
  const indentation = /^[ \t]*$/.test(line) ? line : ''
  const render = `{% render '${partial}'${given.map((one) => `, ${one}: ${one}`).join('')} %}`
  // What ends a line goes on ending it.
  const [, start = '', end = ''] = /^(\s*)[\s\S]*?(\s*)$/.exec(selected) ?? []
  const body = unindented(
    `${indentation}${selected.slice(start.length)}`.trimEnd(),
    indentation + start.replace(/^[\s\S]*\n/, ''),
  )
  return success({
    given,
    changes: [
      { document: path, text: `${body}\n`.replace(/^\s+/, '') },
      { document, text: `${text.slice(0, from)}${start}${render}${end}${text.slice(to)}` },
    ],
  })
}

function* nodesIn(nodes: readonly TemplateNode[]): Generator<TemplateNode> {
  for (const node of nodes) {
    yield node
    for (const body of bodiesOf(node)) yield* nodesIn(body)
  }
}

/** Removes the indentation of the first line from all lines. */
const unindented = (text: string, indentation: string): string =>
  text
    .split('\n')
    .map((line) => (line.startsWith(indentation) ? line.slice(indentation.length) : line.trimStart()))
    .join('\n')
