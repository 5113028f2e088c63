/** Which statement gives the rows of a query from a place on. */
import type { CompiledQuery } from './compile-query.ts'
import type { RankedQuery } from './compile-ranked.ts'
import type { Queryable } from '../connection.ts'
import { expectedRows } from './estimate.ts'
import type { Binding, Statement } from './statement.ts'

/** To look at the words of a row costs about as much as to fetch so many that the index of words has found. */
const COST_OF_LOOKING = 2

/** To note the place of a row that the index of words has found, before others sift it, costs about an eighth of that. */
const COST_OF_NOTING = 1 / 8

/** @param binding its `offset` is the place, 0-based */
export async function rowsFrom(
  pool: Queryable,
  { ranked, items, further }: CompiledQuery,
  binding: Binding & { offset: number },
): Promise<Statement> {
  const { offset } = binding
  if (!ranked) return offset > 0 && further ? further : items
  const { byIndex, rowByRow, most } = ranked
  const isLooking = rowByRow && (await isFewerToLookAt(pool, rowByRow, Math.max(most, offset), binding))
  const pages = isLooking ? rowByRow : byIndex
  return offset < most ? pages.best : pages.rest
}

/** True where words are so frequent that the newest rows that have them are found sooner by looking at all new ones. */
async function isFewerToLookAt(
  pool: Queryable,
  { expected }: NonNullable<RankedQuery['rowByRow']>,
  wanted: number,
  binding: Binding,
): Promise<boolean> {
  const [matching, worded, all] = await Promise.all([
    expectedRows(pool, expected.matching, binding),
    expectedRows(pool, expected.worded, binding),
    expectedRows(pool, expected.all, binding),
  ])
  const lookedAt = Math.min(all, (wanted * all) / Math.max(1, matching))
  return COST_OF_LOOKING * lookedAt < matching + COST_OF_NOTING * worded
}
