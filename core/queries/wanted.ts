/** What of its rows a query has to fetch: the fields that somebody reads, and what names a row. */
import type { QueryMeaning } from './meaning.ts'
import { RELATED_FIELDS, SOURCE } from './sources.ts'

/** Fields, relations' fields (`category.slug`) and counts to be fetched; absent: all of them. */
export type Wanted = readonly string[]

/** A row is told by these in walks, kept copies and links. */
const NAMING = ['id', 'title', 'name', 'slug', 'path']

/** @param paths that are read of the rows, e.g. `['category', 'slug']` */
export function wantedOf(
  { from, relations, counts }: QueryMeaning,
  paths: Iterable<readonly string[]>,
): Wanted {
  const source = SOURCE[from]
  const wanted = new Set(NAMING.filter((one) => one in source.fields))
  for (const [first = '', second] of paths) {
    if (first in source.fields || counts.includes(first)) wanted.add(first)
    // A comment's HTML is made of its text.
    if (from === 'comments' && first === 'html') wanted.add('text')
    if (first === 'found') wanted.add('found')
    const related = relations.includes(first) ? source.relations[first] : undefined
    if (!related) continue
    wanted.add(`${first}.id`)
    if (second !== undefined && RELATED_FIELDS[related.source].includes(second))
      wanted.add(`${first}.${second}`)
  }
  return [...wanted].sort()
}
