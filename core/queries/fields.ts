/** Finds fields by the names that queries use: `title`, and `category.slug` for a field of a related row. */
import type { SourceName } from '../shapes/schemas.ts'
import { SOURCE, type Field } from './sources.ts'

/** Only the rows that a query is from can be searched and ranked. */
const isOfSearch = ({ type }: Field): boolean => type === 'words' || type === 'relevance'

/** Returns the fields that queries can use of a related row. */
export const relatedFields = (source: SourceName): [name: string, field: Field][] =>
  Object.entries(SOURCE[source].fields).filter(([, field]) => !isOfSearch(field))

/** Finds a field of a source, or of a related row by `relation.field`. */
export function findField(
  source: SourceName,
  name: string,
): { field: Field; relation?: string; many?: boolean } | undefined {
  const [first = '', second, ...more] = name.split('.')
  if (more.length > 0) return undefined
  if (second === undefined) {
    const field = SOURCE[source].fields[first]
    return field && { field }
  }
  const relation = SOURCE[source].relations[first]
  if (!relation || relation.source === 'images') return undefined
  const field = SOURCE[relation.source].fields[second]
  return field && !isOfSearch(field) ? { field, relation: first, many: relation.many } : undefined
}

/** Returns the source that owns a field: `category.slug` of posts is `categories.slug`. */
export function ownerOf(source: SourceName, name: string): string {
  const [first = '', second] = name.split('.')
  return second === undefined
    ? `${source}.${name}`
    : `${SOURCE[source].relations[first]?.source ?? ''}.${second}`
}

/** Returns the fields and relations of a source, for hints. */
export const fieldsInWords = (source: SourceName): string => {
  const { fields, relations } = SOURCE[source]
  const names = Object.keys(relations)
  return `Fields: ${Object.keys(fields).join(', ')}.${names.length > 0 ? ` Relations: ${names.join(', ')}.` : ''}`
}
