/** Fields by their names, as queries write them: own ones, and over a dot those of a related row. */
import type { SourceName } from '../shapes/schemas.ts'
import { SOURCE, type Field } from './sources.ts'

/** Finds a field of a source or, over a dot, of a relation. */
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
  return field && { field, relation: first, many: relation.many }
}

/** Whose field it is: `category.slug` of posts is `categories.slug`. */
export function ownerOf(source: SourceName, name: string): string {
  const [first = '', second] = name.split('.')
  return second === undefined
    ? `${source}.${name}`
    : `${SOURCE[source].relations[first]?.source ?? ''}.${second}`
}

/** What there is, for those who named something else. */
export const fieldsInWords = (source: SourceName) => {
  const { fields, relations } = SOURCE[source]
  return `fields: ${Object.keys(fields).join(', ')}${Object.keys(relations).length > 0 ? `; relations: ${Object.keys(relations).join(', ')}` : ''}`
}
