/** The data of a route: which query each value comes from, and the values of the query's parameters. */
import type { QuerySummary } from '../../../contract/queries.ts'
import type { DataEntry } from '../../../core/shapes/schemas.ts'

export type RouteData = Readonly<Record<string, DataEntry>>

export const queryOf = (entry: DataEntry): string => (typeof entry === 'string' ? entry : entry.query)

export const valuesOf = (entry: DataEntry): Readonly<Record<string, string>> =>
  typeof entry === 'string' ? {} : (entry.with ?? {})

/** Returns an entry without empty values. */
export function dataEntry(query: string, values: Readonly<Record<string, string>>): DataEntry {
  const given = Object.entries(values).filter(([, value]) => value.trim() !== '')
  return given.length === 0 ? query : { query, with: Object.fromEntries(given) }
}

/** Returns the required parameters that neither the address nor the entry gives a value. */
export const missingParameters = (
  query: QuerySummary | undefined,
  entry: DataEntry,
  available: readonly string[],
): string[] =>
  (query?.parameters ?? [])
    .filter(({ name, optional }) => !optional && !available.includes(name) && !valuesOf(entry)[name])
    .map(({ name }) => name)

/**
 * Returns the query to propose for a route: one that it does not use yet and whose parameters its address has.
 * @param available the names of the address's parameters
 */
export function proposedQuery(
  queries: readonly QuerySummary[],
  data: RouteData,
  available: readonly string[],
): QuerySummary | undefined {
  const used = new Set(Object.values(data).map(queryOf))
  const fitting = queries.filter((one) => missingParameters(one, one.name, available).length === 0)
  return fitting.find((one) => !used.has(one.name)) ?? fitting[0]
}

/** Returns a name for the data of a query that the route does not use yet, e.g. `latestPosts`. */
export function dataName(query: string, data: RouteData): string {
  const name = query.replace(/-([a-z0-9])/g, (_, letter: string) => letter.toUpperCase())
  if (!Object.hasOwn(data, name)) return name
  for (let number = 2; ; number++) if (!Object.hasOwn(data, `${name}${number}`)) return `${name}${number}`
}
