/** How the result of a query looks as JSON: a JSON Schema (2020-12) made from its meaning. */
import { findField } from '../queries/fields.ts'
import { isSearch, type QueryMeaning } from '../queries/meaning.ts'
import { IMAGE_FIELDS, RELATED_FIELDS, SOURCE, type Field } from '../queries/sources.ts'
import type { SourceName } from '../shapes/schemas.ts'

export type JsonSchema = Readonly<Record<string, unknown>>

const object = (properties: Readonly<Record<string, JsonSchema>>): JsonSchema => ({
  type: 'object',
  properties,
  required: Object.keys(properties),
  additionalProperties: false,
})
const orNull = (schema: JsonSchema): JsonSchema => ({ anyOf: [schema, { type: 'null' }] })
const list = (items: JsonSchema): JsonSchema => ({ type: 'array', items })
const integer: JsonSchema = { type: 'integer' }
const count: JsonSchema = { type: 'integer', minimum: 0 }

const HTML: JsonSchema = {
  type: 'string',
  contentMediaType: 'text/html',
  description: 'HTML that runs no script',
}

function fieldSchema({ type, nullable }: Field): JsonSchema {
  const plain = ((): JsonSchema => {
    switch (type) {
      case 'integer':
        return integer
      case 'boolean':
        return { type: 'boolean' }
      case 'time':
        return { type: 'string', format: 'date-time' }
      case 'safe-html':
        return HTML
      default:
        return { type: 'string' }
    }
  })()
  return nullable ? orNull(plain) : plain
}

/** Related rows come with what names them. */
function relatedSchema(source: SourceName | 'images'): JsonSchema {
  const fields = source === 'images' ? IMAGE_FIELDS : SOURCE[source].fields
  return object(
    Object.fromEntries(
      RELATED_FIELDS[source].flatMap((name) => {
        const field = fields[name]
        return field ? [[name, fieldSchema(field)]] : []
      }),
    ),
  )
}

function rowSchema(meaning: QueryMeaning): JsonSchema {
  if (meaning.countBy.length > 0) return countedSchema(meaning)
  const { fields, relations } = SOURCE[meaning.from]
  const properties: Record<string, JsonSchema> = {}
  for (const [name, field] of Object.entries(fields)) {
    if (field.partOf || field.type === 'words' || field.type === 'relevance') continue
    if (field.long && meaning.take.kind !== 'one') continue
    properties[name] = fieldSchema(isFilled(meaning, name) ? { ...field, nullable: false } : field)
  }
  for (const name of meaning.relations) {
    const relation = relations[name]
    if (!relation) continue
    const related = relatedSchema(relation.source)
    properties[name] = relation.many ? list(related) : relation.nullable ? orNull(related) : related
  }
  for (const name of meaning.counts) properties[name] = count
  if (isSearch(meaning))
    properties['found'] = { ...HTML, description: 'HTML: where it fits the search, marked' }
  if (meaning.from === 'comments') properties['html'] = HTML
  return object(properties)
}

/** Whether a field that may be empty is not, because only published posts are fetched. */
function isFilled({ from, named }: QueryMeaning, name: string): boolean {
  const time = SOURCE[from].fields[name]?.partOf?.time ?? name
  return from === 'posts' && time === 'publishedAt' && named.includes('published')
}

function countedSchema(meaning: QueryMeaning): JsonSchema {
  const { from, countBy } = meaning
  const properties: Record<string, JsonSchema> = {}
  const related: Record<string, Record<string, JsonSchema>> = {}
  for (const name of countBy) {
    const [first = '', second] = name.split('.')
    const { type = 'text' } = findField(from, name)?.field ?? {}
    const plain = fieldSchema({ type })
    const schema = isFilled(meaning, name) ? plain : orNull(plain)
    if (second === undefined) properties[first] = schema
    else related[first] = { ...related[first], [second]: schema }
  }
  for (const [name, fields] of Object.entries(related)) properties[name] = orNull(object(fields))
  return object({ ...properties, count })
}

export function resultSchema(meaning: QueryMeaning): JsonSchema {
  const row = rowSchema(meaning)
  const { take, empty } = meaning
  switch (take.kind) {
    case 'one':
      return empty === 'allow' ? orNull(row) : row
    case 'first':
      return { ...list(row), maxItems: take.count }
    case 'all':
      return list(row)
    case 'pages': {
      const items = { ...list(row), maxItems: take.size }
      const size = { type: 'integer', const: take.size }
      const isEstimated = {
        type: 'boolean',
        description: 'the total is an estimate: say “about”',
      }
      const url = { type: 'string', format: 'uri-reference' }
      if (take.by === 'cursor') {
        const link = orNull(object({ url }))
        const total = orNull(count)
        return object({
          by: { const: 'cursor' },
          items,
          size,
          total,
          isEstimated,
          previous: link,
          next: link,
          first: link,
        })
      }
      const link = orNull(object({ number: integer, url, current: { type: 'boolean' } }))
      return object({
        by: { const: 'number' },
        items,
        total: count,
        isEstimated,
        size,
        page: { type: 'integer', minimum: 1 },
        pageCount: count,
        from: count,
        to: count,
        previous: link,
        next: link,
        first: link,
        last: link,
      })
    }
  }
}
