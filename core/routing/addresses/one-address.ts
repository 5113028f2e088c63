/** One place, one address: values that can be written in several ways (1 and 01) are led to the way they are built. */
import { readAddress, type AddressPolicy } from './address.ts'
import { buildPath } from './build.ts'
import { matchRoute, type Match } from './match.ts'
import type { RouteTable } from './table.ts'

type Matched = Match & { outcome: 'matched' }

export interface OtherWriting {
  /** The path of the same place. */
  path: string
  /** What was written in another way, in words. */
  reason: string
}

/**
 * Where the page of a match has its address, when a parameter is written in another way than the one in which its value
 * is built: `01` for the month 1, `007` for 7, a UUID in capitals. Only where the same route answers there with the same
 * values: a pattern that wants two digits keeps them. What it gives is never written in another way again.
 * @returns undefined for the one address
 */
export function writtenOtherwise(
  table: RouteTable,
  policy: AddressPolicy,
  { index, route, parameters }: Matched,
): OtherWriting | undefined {
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
    reason: others.map(({ name, raw, value }) => `${name} “${raw}” is written “${value}”`).join(', '),
  }
}

const valuesOf = ({ parameters }: Pick<Matched, 'parameters'>) =>
  parameters.map(({ name, value }) => [name, value])

/**
 * Where a redirect to the canonical form of an address ends at last: its values are settled in the same step.
 * @param to path and query of that form
 */
export function settled(table: RouteTable, policy: AddressPolicy, method: string, to: string): string {
  const reading = readAddress(to, policy)
  if (!reading.ok) return to
  const match = matchRoute(table, method, reading.path)
  const other = match.outcome === 'matched' ? writtenOtherwise(table, policy, match) : undefined
  return other ? withSearch(other.path, reading.query) : to
}

export const withSearch = (path: string, query: string): string => (query === '' ? path : `${path}?${query}`)
