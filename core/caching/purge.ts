/** Derives the tags to purge from the state of a row before and after a change. */
import type { SourceName } from '../shapes/schemas.ts'
import { fieldConditionsOf } from '../queries/clauses.ts'
import { clausesOf, type QueryMeaning } from '../queries/meaning.ts'
import { SOURCE } from '../queries/sources.ts'

/** The fields of a row that queries can see. Related rows are ids: `categoryId`, `tagIds` and so on. */
export type RowState = Readonly<Record<string, unknown>>

export interface Change {
  source: SourceName
  id: number
  /** null if the row was created. */
  before: RowState | null
  /** null if the row was deleted. */
  after: RowState | null
  /** The rows that count this row: for a comment, its post. */
  counted?: readonly { source: SourceName; id: number }[]
}

/** Returns e.g. `post:31` for `posts` and 31. */
export const rowTag = (source: SourceName, id: number) => `${SOURCE[source].words[0]}:${id}`
export const sourceTag = (source: SourceName) => `source:${source}`
/** Returns the tag of the rows counted for a row, e.g. `post:31/comments`. */
export const countTag = (source: SourceName, id: number, of: SourceName) => `${rowTag(source, id)}/${of}`

export interface PurgeReason {
  tag: string
  why: string
}

/**
 * Returns the tags to purge after a change. It is deliberately coarse: listings are purged if any query of the definition
 * filters, orders or counts by a field that changed.
 */
export function purgeTags(change: Change, queries: Iterable<QueryMeaning>): PurgeReason[] {
  const { source, id, before, after } = change
  const word = SOURCE[source].words[0]
  const reasons: PurgeReason[] = [
    {
      tag: rowTag(source, id),
      why: `${word} ${id} was ${before === null ? 'created' : after === null ? 'deleted' : 'changed'}`,
    },
  ]
  const changed = changedFields(before, after)
  const deciding =
    before === null || after === null ? changed : changed.filter((field) => decides(source, field, queries))
  if (deciding.length > 0) {
    const why =
      before === null
        ? `${word} created`
        : after === null
          ? `${word} deleted`
          : `${deciding.join(', ')} changed`
    reasons.push({ tag: sourceTag(source), why })
  }
  if (before === null || after === null || changed.includes('state')) {
    for (const one of change.counted ?? [])
      reasons.push({
        tag: countTag(one.source, one.id, source),
        why: `${source} of ${SOURCE[one.source].words[0]} ${one.id} changed`,
      })
  }
  return reasons
}

function changedFields(before: RowState | null, after: RowState | null): string[] {
  const names = new Set([...Object.keys(before ?? {}), ...Object.keys(after ?? {})])
  return [...names].filter((name) => !sameValue(before?.[name], after?.[name]))
}

const plain = (value: unknown): string => JSON.stringify(value) ?? 'undefined'
const sameValue = (a: unknown, b: unknown) => a === b || plain(a) === plain(b)

/** Returns true if a field can decide the membership or order of a listing. */
function decides(source: SourceName, field: string, queries: Iterable<QueryMeaning>): boolean {
  if (field.endsWith('Id') || field.endsWith('Ids')) return true
  if (Object.values(SOURCE[source].conditions).some((condition) => condition.fields.includes(field)))
    return true
  for (const query of queries) {
    const conditions = fieldConditionsOf(clausesOf(query))
    for (const name of [...conditions, ...query.order].map((one) => one.field)) {
      const [named = '', second] = name.split('.')
      const first = SOURCE[query.from].fields[named]?.partOf?.time ?? named
      if (
        second === undefined
          ? query.from === source && first === field
          : SOURCE[query.from].relations[first]?.source === source && second === field
      )
        return true
    }
  }
  return false
}
