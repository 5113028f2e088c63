/** A change of a row, as the database has recorded it. */
import type { EvaluatedRow } from '../queries/evaluate.ts'
import { SOURCE } from '../queries/sources.ts'
import type { SourceName } from '../shapes/schemas.ts'

/** What rows belong to. Images are not a source of queries, but rows show them. */
export type RowSource = SourceName | 'images'

export interface Change {
  source: RowSource
  id: number
  kind: 'created' | 'changed' | 'deleted'
  /** The fields that differ, by the names of queries; of a created or deleted row, all of them. */
  fields: ReadonlySet<string>
  /**
   * The row before and after, with its related rows as they are now. Fields that are not known are absent. null if there
   * was, or is, no row.
   */
  before: EvaluatedRow | null
  after: EvaluatedRow | null
  /** Where rows were linked or unlinked: the relation, and the row at its other end. */
  link?: { relation: string; row: EvaluatedRow }
}

/** Returns e.g. `post` for `posts`. */
export const wordOf = (source: RowSource): string => (source === 'images' ? 'image' : SOURCE[source].words[0])

/** E.g. “post 31: title, slug changed”. */
export function describeChange({ source, id, kind, fields, link }: Change): string {
  const row = `${wordOf(source)} ${id}`
  if (link) return `${row}: ${link.relation} changed`
  if (kind !== 'changed') return `${row} ${kind}`
  const named = [...fields].filter((one) => !ALWAYS.has(one)).map((one) => one.replace(/Id$/, ''))
  return `${row}: ${(named.length > 0 ? named : [...fields]).sort().join(', ')} changed`
}

/** Fields that differ after every save, and therefore say nothing. */
const ALWAYS = new Set(['version', 'updatedAt', 'search', 'pipeline'])
