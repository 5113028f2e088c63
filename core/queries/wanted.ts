/** Decides which fields of its rows a query fetches: the fields that templates read, and those that identify a row. */
import type { QueryMeaning } from './meaning.ts'
import { RELATED_FIELDS, SOURCE } from './sources.ts'

/** Fields, fields of relations (`category.slug`) and counts to fetch. */
export type Wanted = readonly string[]

/** Fields that identify a row in walks, cached copies and links. */
const NAMING = ['id', 'title', 'name', 'slug', 'path']

/**
 * Returns what to fetch for the paths that are read.
 * @param paths e.g. `['category', 'slug']`
 */
export function wantedOf(
  { from, relations, counts }: QueryMeaning,
  paths: Iterable<readonly string[]>,
): Wanted {
  const source = SOURCE[from]
  const wanted = new Set(NAMING.filter((one) => one in source.fields))
  for (const [first = '', second] of paths) {
    if (first in source.fields || counts.includes(first)) wanted.add(first)
    // The HTML of a comment is rendered from its text.
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
