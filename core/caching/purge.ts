/** What a change makes wrong: from the rows before and after to the tags whose copies must go. */
import type { SourceName } from '../shapes/schemas.ts'
import { fieldConditionsOf } from '../queries/clauses.ts'
import { clausesOf, type QueryMeaning } from '../queries/meaning.ts'
import { SOURCE } from '../queries/sources.ts'

/** A row as far as queries can see it: field → value; related rows by their id under `categoryId` and so on. */
export type RowState = Readonly<Record<string, unknown>>

export interface Change {
  source: SourceName
  id: number
  /** null: the row was made. */
  before: RowState | null
  /** null: the row is gone. */
  after: RowState | null
  /** The rows that count this one: for a comment, its post. */
  counted?: readonly { source: SourceName; id: number }[]
}

/** `posts`, 31 → `post:31`. */
export const rowTag = (source: SourceName, id: number) => `${SOURCE[source].words[0]}:${id}`
export const sourceTag = (source: SourceName) => `source:${source}`
/** The comments counted for a row. */
export const countTag = (source: SourceName, id: number, of: SourceName) => `${rowTag(source, id)}/${of}`

export interface PurgeReason {
  tag: string
  why: string
}

/**
 * The tags to purge after a change. Coarse on purpose: a listing goes as soon as a field that any query of the
 * definition keeps, orders or counts by has changed; never too little.
 */
export function purgeTags(change: Change, queries: Iterable<QueryMeaning>): PurgeReason[] {
  const { source, id, before, after } = change
  const word = SOURCE[source].words[0]
  const reasons: PurgeReason[] = [
    {
      tag: rowTag(source, id),
      why: `${word} ${id} was ${before === null ? 'made' : after === null ? 'deleted' : 'changed'}`,
    },
  ]
  const changed = changedFields(before, after)
  const deciding =
    before === null || after === null ? changed : changed.filter((field) => decides(source, field, queries))
  if (deciding.length > 0) {
    const why =
      before === null ? `a new ${word}` : after === null ? `a ${word} less` : `${deciding.join(', ')} changed`
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

/** Fields that always decide membership somewhere: relations, and what named conditions and counts read. */
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
