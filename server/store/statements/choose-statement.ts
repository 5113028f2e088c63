/** Chooses the statement that fetches the rows of a query from an offset. */
import type { CompiledQuery } from './compile-query.ts'
import type { RankedQuery } from './compile-ranked.ts'
import type { Queryable } from '../connection.ts'
import { expectedRows } from './estimate.ts'
import type { Binding, Statement } from './statement.ts'

/** Testing the words of a row costs about as much as fetching this many rows that the index of words has found. */
const COST_OF_TESTING = 2

/** Noting the position of a row in the index of words, before other conditions are applied, costs about an eighth of that. */
const COST_OF_NOTING = 1 / 8

export async function chooseStatement(
  pool: Queryable,
  { ranked, items, further }: CompiledQuery,
  binding: Binding & { offset: number },
): Promise<Statement> {
  const { offset } = binding
  if (!ranked) return offset > 0 && further ? further : items
  const { byIndex, rowByRow, most } = ranked
  const isFaster = rowByRow && (await isTestingCheaper(pool, rowByRow, Math.max(most, offset), binding))
  const pages = isFaster ? rowByRow : byIndex
  return offset < most ? pages.best : pages.rest
}

/** True if the words are so frequent that testing the newest rows finds enough matches sooner than the index. */
async function isTestingCheaper(
  pool: Queryable,
  { estimates }: NonNullable<RankedQuery['rowByRow']>,
  wanted: number,
  binding: Binding,
): Promise<boolean> {
  const [matching, worded, all] = await Promise.all([
    expectedRows(pool, estimates.matching, binding),
    expectedRows(pool, estimates.worded, binding),
    expectedRows(pool, estimates.all, binding),
  ])
  const tested = Math.min(all, (wanted * all) / Math.max(1, matching))
  return COST_OF_TESTING * tested < matching + COST_OF_NOTING * worded
}
