/** Stored measurements. */
import { SOURCES, type SourceName } from '../../core/shapes/schemas.ts'
import { readIndexKey, type OwnIndex } from '../../core/queries/indexes.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import type { ClockPort, DatabasePort, SitePort } from '../publish/ports.ts'
import { MeasurementEntity } from '../store/entities/history.ts'
import type { GrowthResult } from '../../contract/growth-result.ts'

export interface StoredResult {
  id: number
  at: Date
  /** Whether the query is unchanged since. */
  isCurrent: boolean
  result: GrowthResult
}

/** How many results of each query are stored. */
const STORED = 5

/** Identifies a query by its meaning. A change of its YAML that does not change the meaning keeps the results. */
const keyOf = (meaning: QueryMeaning): string => JSON.stringify(meaning)

export async function storeResult(
  blog: DatabasePort & ClockPort,
  meaning: QueryMeaning,
  result: GrowthResult,
): Promise<void> {
  const measurements = blog.database.getRepository(MeasurementEntity)
  const { query } = result
  await measurements.insert({ query, meaning: keyOf(meaning), result, at: blog.clock() })
  const old = await measurements.find({ where: { query }, order: { id: 'DESC' }, skip: STORED, take: 1_000 })
  if (old.length > 0) await measurements.delete(old.map((one) => one.id))
}

/** Returns the results of queries, the latest first. */
export async function storedResults(blog: DatabasePort & SitePort, query?: string): Promise<StoredResult[]> {
  const rows = await blog.database.getRepository(MeasurementEntity).find({
    where: query === undefined ? {} : { query },
    order: { id: 'DESC' },
  })
  const { queries } = blog.site
  return rows.map(({ id, at, query: name, meaning, result }) => {
    const now = queries.get(name)?.meaning
    const isCurrent = now !== undefined && keyOf(now) === meaning
    return { id, at, isCurrent, result: result as GrowthResult }
  })
}

/** Returns the index that a result advises to add. */
export function advisedIndex({ advised, tried }: GrowthResult): OwnIndex | undefined {
  const found = advised && tried.find((one) => one.name === advised.name)
  const on = SOURCES.find((one): one is SourceName => one === found?.on)
  return found && on ? { name: found.name, on, keys: found.keys.map(readIndexKey) } : undefined
}
