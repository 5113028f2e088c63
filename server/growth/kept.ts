/** Measurements that were kept. */
import { SOURCES, type SourceName } from '../../core/shapes/schemas.ts'
import { readIndexKey, type OwnIndex } from '../../core/queries/indexes.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import type { Blog } from '../reader/blog.ts'
import { MeasurementEntity } from '../store/entities/history.ts'
import type { GrowthResult } from '../../contract/growth-result.ts'

export interface KeptResult {
  id: number
  at: Date
  /** False when the query has changed since. */
  isCurrent: boolean
  result: GrowthResult
}

/** Results kept of each query. */
const KEPT = 5

/** What a query is measured by: a change of its YAML that changes none of this leaves results as they are. */
const keyOf = (meaning: QueryMeaning): string => JSON.stringify(meaning)

export async function keepResult(blog: Blog, meaning: QueryMeaning, result: GrowthResult): Promise<void> {
  const measurements = blog.database.getRepository(MeasurementEntity)
  const { query } = result
  await measurements.insert({ query, meaning: keyOf(meaning), result, at: blog.clock() })
  const old = await measurements.find({ where: { query }, order: { id: 'DESC' }, skip: KEPT, take: 1_000 })
  if (old.length > 0) await measurements.delete(old.map((one) => one.id))
}

/** What was found of queries, the newest first. */
export async function keptResults(blog: Blog, query?: string): Promise<KeptResult[]> {
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

/** The index that a result advises. */
export function advisedIndex({ advised, tried }: GrowthResult): OwnIndex | undefined {
  const found = advised && tried.find((one) => one.name === advised.name)
  const on = SOURCES.find((one): one is SourceName => one === found?.on)
  return found && on ? { name: found.name, on, keys: found.keys.map(readIndexKey) } : undefined
}
