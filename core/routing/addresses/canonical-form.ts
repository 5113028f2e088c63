/** Computes the canonical form of parameter values that can be written in several ways, such as `1` and `01`. */
import { readAddress, type AddressPolicy } from './address.ts'
import { buildPath } from './build.ts'
import { matchRoute, type Match } from './match.ts'
import type { RouteTable } from './table.ts'

type Matched = Match & { outcome: 'matched' }

export interface CanonicalForm {
  path: string
  /** What is not canonical, as a sentence. */
  reason: string
}

/**
 * Returns the canonical form of a matched path that has a parameter in another form: `01` for month 1, `007` for 7, a
 * UUID in capitals. The form is canonical only if the same route matches it with the same values, so a pattern that
 * requires two digits keeps them. A canonical form has no other canonical form.
 * @returns undefined if the path is canonical
 */
export function canonicalForm(
  table: RouteTable,
  policy: AddressPolicy,
  { index, route, parameters }: Matched,
): CanonicalForm | undefined {
  const others = parameters.filter(
    (one) => one.type !== 'text' && one.type !== 'path' && one.raw !== String(one.value),
  )
  if (others.length === 0) return undefined
  const built = buildPath(
    route,
    Object.fromEntries(parameters.map(({ name, value }) => [name, value])),
    policy,
  )
  if (!built.ok) return undefined
  const reading = readAddress(built.path, policy)
  if (!reading.ok) return undefined
  const there = matchRoute(table, route.method, reading.path)
  if (there.outcome !== 'matched' || there.index !== index) return undefined
  if (JSON.stringify(valuesOf(there)) !== JSON.stringify(valuesOf({ parameters }))) return undefined
  return {
    path: built.path,
    reason: `Canonical form: ${others.map(({ name, raw, value }) => `${name} “${value}” instead of “${raw}”`).join(', ')}.`,
  }
}

const valuesOf = ({ parameters }: Pick<Matched, 'parameters'>) =>
  parameters.map(({ name, value }) => [name, value])

/**
 * Returns the final target of a redirect to a canonical address. Parameter values are made canonical in the same step,
 * so that one redirect is enough.
 * @param to path and query
 */
export function canonicalTarget(
  table: RouteTable,
  policy: AddressPolicy,
  method: string,
  to: string,
): string {
  const reading = readAddress(to, policy)
  if (!reading.ok) return to
  const match = matchRoute(table, method, reading.path)
  const other = match.outcome === 'matched' ? canonicalForm(table, policy, match) : undefined
  return other ? withSearch(other.path, reading.query) : to
}

export const withSearch = (path: string, query: string): string => (query === '' ? path : `${path}?${query}`)
