/** The queries that a route's data comes from. */
import type { Route } from './schemas.ts'

/** Returns the names of the queries that a route's data comes from, in order. */
export const queriesOf = ({ data }: Pick<Route, 'data'>): string[] =>
  Object.values(data ?? {}).map((entry) => (typeof entry === 'string' ? entry : entry.query))
