/** Renames or moves a template, an asset or a query, with all its uses. */
import { isMap, isScalar, parse, parseDocument, visit, type Scalar } from 'yaml'
import type { DocumentChange } from '../../shapes/changes.ts'
import { documentKind, documentName } from '../../shapes/documents.ts'
import { refused, type Outcome } from '../../shapes/outcome.ts'
import type { Definition } from '../definition.ts'
import { REARRANGING_PROBLEMS } from '../problems.ts'
import { offsetOf, replaced, type Stretch } from './places.ts'
import { rearranged, type Rearranged } from './rearranged.ts'

const MOVED = new Set(['template', 'asset', 'query'])
/** Documents that name templates and queries. */
const NAMING = ['routes.yaml', 'blog.yaml']

/** @param from and `to` are documents, e.g. `templates/partials/card.liquid` */
export function renameDocument(
  definition: Definition,
  documents: ReadonlyMap<string, string>,
  { from, to }: { from: string; to: string },
): Outcome<Rearranged> {
  const kind = documentKind(from)
  const text = documents.get(from)
  if (kind === undefined || !MOVED.has(kind) || text === undefined)
    return refused({ file: from, ...REARRANGING_PROBLEMS['rename-not-possible'](from) })
  if (documentKind(to) !== kind || extensionOf(from) !== extensionOf(to))
    return refused({ file: from, ...REARRANGING_PROBLEMS['rename-name-invalid'](to, from) })
  if (documents.has(to)) return refused({ file: to, ...REARRANGING_PROBLEMS['rename-name-taken'](to) })
  const [old, name] = [documentName(from), documentName(to)]
  const texts = new Map<string, string>()
  const change = (document: string, stretches: readonly Stretch[], by: string) => {
    if (stretches.length === 0) return
    const before = texts.get(document) ?? documents.get(document) ?? ''
    texts.set(
      document,
      replaced(
        before,
        stretches.map((one) => ({ ...one, by })),
      ),
    )
  }
  for (const [template, { templates, assets }] of definition.templates.mentions()) {
    const document = `templates/${template}.liquid`
    const own = documents.get(document) ?? ''
    const places =
      kind === 'template'
        ? templates.flatMap((one) => (one.name === old ? one.place : []))
        : kind === 'asset'
          ? assets.flatMap((one) => (one.name === old ? one.place : []))
          : []
    const stretches = new Map<number, Stretch>()
    for (const place of places) {
      // The name is the first text in quotes of its tag.
      const at = offsetOf(own, place)
      const [quoted, quote = ''] = /^(?:\{%-?\s*)?(?:\w+\s+)?(['"])/.exec(own.slice(at)) ?? []
      const start = at + (quoted?.length ?? 0)
      if (quoted === undefined || !own.startsWith(old + quote, start))
        return refused({ file: document, ...REARRANGING_PROBLEMS['rename-use-unclear'](place.line) })
      stretches.set(start, { from: start, to: start + old.length })
    }
    change(document, [...stretches.values()], name)
  }
  if (kind !== 'asset')
    for (const document of NAMING)
      change(document, namedIn(documents.get(document) ?? '', kind, old), inYaml(name))
  const renamed = texts.get(from) ?? text
  texts.delete(from)
  const changes: DocumentChange[] = [
    { document: to, text: renamed },
    ...[...texts].map(([document, changed]) => ({ document, text: changed })),
  ]
  return rearranged(definition, documents, { changes, deleted: [from] }, from)
}

const extensionOf = (path: string) => /\.\w+$/.exec(path)?.[0]

/** Returns a name as YAML reads it as a text: `2024` would be a number. */
const inYaml = (name: string) => (parse(name) === name ? name : JSON.stringify(name))

/** Returns where a document names a template (as `template` or `error`) or a query (in `data`). */
function namedIn(text: string, kind: string, name: string): Stretch[] {
  const found: Stretch[] = []
  const note = (value: unknown) => {
    if (!isScalar(value) || value.value !== name) return
    const [from, to] = (value as Scalar).range ?? []
    if (from !== undefined && to !== undefined) found.push({ from, to })
  }
  visit(parseDocument(text), {
    Pair(_, { key, value }) {
      const own = isScalar(key) ? key.value : undefined
      if (kind === 'template') {
        if (own === 'template' || own === 'error') note(value)
      } else if (own === 'data' && isMap(value))
        for (const entry of value.items)
          note(isMap(entry.value) ? entry.value.get('query', true) : entry.value)
    },
  })
  return found
}
