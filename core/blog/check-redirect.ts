/** Checks redirects: what their targets refer to must exist, and their data must be used. */
import { parameterNames } from '../queries/arguments.ts'
import { findField } from '../queries/fields.ts'
import { SOURCE, type FieldType } from '../queries/sources.ts'
import type { CompiledRoute } from '../routing/addresses/compiled-route.ts'
import { redirectReferences } from '../routing/addresses/redirect.ts'
import type { Worded } from '../shapes/catalogue.ts'
import type { Problem } from '../shapes/problem.ts'
import type { DataEntry } from '../shapes/schemas.ts'
import { suggestName } from '../shapes/suggest-name.ts'
import type { Draft } from './definition.ts'
import { ROUTE_PROBLEMS } from './problems.ts'

export type Path = readonly (string | number)[]
/** Makes a problem of a route, with its place. */
export type Report = (path: Path, worded: Worded) => Problem

export function checkRedirect(
  draft: Draft,
  { redirect, data, heading }: CompiledRoute['route'],
  pattern: CompiledRoute['pattern'],
  report: Report,
): Problem[] {
  const { parameters, fields } = redirectReferences(redirect?.to ?? '', data)
  const given = Object.values(data ?? {}).flatMap((entry) =>
    typeof entry === 'string' ? [] : Object.values(entry.with ?? {}).flatMap(parameterNames),
  )
  const used = new Set([...fields.map((one) => one.split('.')[0] ?? ''), ...given])
  const unused = [
    ...(heading === undefined ? [] : [['heading']]),
    ...Object.keys(data ?? {}).flatMap((name) => (used.has(name) ? [] : [['data', name]])),
  ].map((path) => report(path, ROUTE_PROBLEMS['route-redirect-shows-nothing'](path.join('.'))))
  const wrong = fields.flatMap((reference) => {
    const hint = redirectFieldProblem(draft, data ?? {}, reference)
    return hint === undefined
      ? []
      : [report(['redirect', 'to'], ROUTE_PROBLEMS['route-redirect-field-unknown'](reference, hint))]
  })
  const unknown = parameters
    .filter((name) => !pattern.names.includes(name))
    .map((name) => {
      const hint =
        pattern.names.length === 0 ? `The path is ${pattern.text}.` : suggestName(name, pattern.names)
      return report(['redirect', 'to'], ROUTE_PROBLEMS['route-redirect-parameter-unknown'](name, hint))
    })
  return [...unused, ...wrong, ...unknown]
}

/** Returns how to correct a field from which a redirect is built; undefined if it can be used. */
function redirectFieldProblem(
  { queries }: Draft,
  data: Readonly<Record<string, DataEntry>>,
  reference: string,
): string | undefined {
  const [name = '', ...steps] = reference.split('.')
  const entry = data[name]
  const query = typeof entry === 'object' ? entry.query : (entry ?? '')
  const meaning = queries.get(query)
  // An unknown query is reported where it is named.
  if (!meaning) return undefined
  if (meaning.take.kind !== 'one') return `“${name}” is a list. Use a query that takes one row.`
  const field = steps.join('.')
  const found = findField(meaning.from, field)
  if (!found || found.many === true || found.field.long === true || !IN_ADDRESSES.has(found.field.type))
    return steps.length === 0
      ? `Add a field, such as :${name}.slug.`
      : suggestName(
          field,
          Object.entries(SOURCE[meaning.from].fields).flatMap(([one, { type }]) =>
            IN_ADDRESSES.has(type) ? [one] : [],
          ),
        )
  if (found.relation !== undefined && !meaning.relations.includes(found.relation))
    return `Add “${found.relation}” to “with” of the query “${query}”.`
  return undefined
}

/** The types of fields from which addresses are built. */
const IN_ADDRESSES: ReadonlySet<FieldType> = new Set<FieldType>(['slug', 'path', 'integer', 'text'])
