/**
 * Compiles a query's meaning to SQL through TypeORM's QueryBuilder, once; each request only binds values.
 * One statement a listing, one for its total, one for each to-many relation; never one a row. Field names come from
 * the catalogue in core/queries/sources.ts, values are always bound.
 */
import { LRUCache } from 'lru-cache'
import type { DataSource, ObjectLiteral, SelectQueryBuilder } from 'typeorm'
import { fieldConditionsOf, parameterOf } from '../../core/queries/clauses.ts'
import { clausesOf, findField, type QueryMeaning } from '../../core/queries/meaning.ts'
import { RELATED_FIELDS, SOURCE, type FieldType } from '../../core/queries/sources.ts'
import {
  ClauseSql,
  countExpression,
  expressionOf,
  EXTRACT,
  rankExpression,
  searchQuery,
  type Locale,
} from './clause-sql.ts'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from './entities/content.ts'

const ENTITY = {
  posts: PostEntity,
  pages: PageEntity,
  categories: CategoryEntity,
  tags: TagEntity,
  authors: AuthorEntity,
  comments: CommentEntity,
} as const

/** A value to bind: fixed, or found in the request. */
export type Slot =
  | { kind: 'fixed'; value: unknown }
  | { kind: 'parameter'; name: string }
  | { kind: 'offset' }
  | { kind: 'ids' }

export interface Statement {
  sql: string
  slots: Slot[]
}

/** What a request gives a statement. */
export interface Binding {
  parameters: Readonly<Record<string, unknown>>
  offset?: number
  ids?: number[]
}

export const boundValues = ({ slots }: Statement, binding: Binding): unknown[] =>
  slots.map((slot) => {
    switch (slot.kind) {
      case 'fixed':
        return slot.value
      case 'parameter':
        return binding.parameters[slot.name] ?? null
      case 'offset':
        return binding.offset ?? 0
      case 'ids':
        return binding.ids ?? []
    }
  })

/** How one column of a raw row becomes a value of the template's row. */
export interface OutputColumn {
  key: string
  relation?: string
  field: string
  type: FieldType | 'count' | 'extract'
}

export interface CompiledQuery {
  items: Statement
  total?: Statement
  /** To-many relations, filled for all rows at once. */
  many: { relation: string; statement: Statement; columns: OutputColumn[] }[]
  columns: OutputColumn[]
}

/** Which rows a query may see: a reader's, or also what is not published yet. */
export type Visibility = 'reader' | 'author'

/** An author sees one row that is not published yet by its address; listings stay as readers see them. */
export const liftsPublished = ({ take, named }: QueryMeaning, visibility: Visibility): boolean =>
  visibility === 'author' && take.kind === 'one' && named.includes('published')

/** Stands for a bound value while the statement is built, so that its position can be found. */
class Marker {
  constructor(readonly slot: Slot) {}
}

function slotFor(value: unknown): Marker {
  const parameter = parameterOf(value)
  return new Marker(
    parameter === undefined ? { kind: 'fixed', value } : { kind: 'parameter', name: parameter },
  )
}

type Builder = SelectQueryBuilder<ObjectLiteral>

/** Queries compiled before: a save compiles the whole definition again, of which it changed one document. */
const KEPT = 1_000
const compiled = new WeakMap<DataSource, LRUCache<string, CompiledQuery>>()

/** @param locale of the blog: years, months and days of times are read by its clock, words in its language */
export function compileQuery(
  database: DataSource,
  meaning: QueryMeaning,
  visibility: Visibility,
  locale: Locale,
): CompiledQuery {
  let known = compiled.get(database)
  if (!known) compiled.set(database, (known = new LRUCache({ max: KEPT })))
  const key = `${visibility} ${locale.timeZone} ${locale.searchConfiguration} ${JSON.stringify(meaning)}`
  const found = known.get(key)
  if (found) return found
  const made = compile(database, meaning, visibility, locale)
  known.set(key, made)
  return made
}

function compile(
  database: DataSource,
  meaning: QueryMeaning,
  visibility: Visibility,
  locale: Locale,
): CompiledQuery {
  const alias = SOURCE[meaning.from].words[0]
  const single = meaning.take.kind === 'one'
  const builder: Builder = database
    .getRepository<ObjectLiteral>(ENTITY[meaning.from])
    .createQueryBuilder(alias)
  const isOne = (relation: string) => SOURCE[meaning.from].relations[relation]?.many === false
  const relationsOf = (fields: readonly { field: string }[]) =>
    fields.flatMap(({ field }) => (field.includes('.') ? [field.split('.')[0] ?? ''] : [])).filter(isOne)
  const joined = new Set(relationsOf(fieldConditionsOf(clausesOf(meaning))))
  for (const relation of joined) builder.leftJoin(`${alias}.${relation}`, relation)
  applyConditions(builder, meaning, alias, locale, liftsPublished(meaning, visibility))
  const total =
    meaning.take.kind === 'pages' ? statement(builder.clone().select('count(*)', 'total')) : undefined

  const selected = meaning.relations.filter(isOne)
  for (const relation of new Set([...selected, ...relationsOf(meaning.order)])) {
    if (!joined.has(relation)) builder.leftJoin(`${alias}.${relation}`, relation)
  }
  const columns: OutputColumn[] = []
  builder.select([])
  const select = (expression: string, column: OutputColumn) => {
    builder.addSelect(expression, column.key)
    columns.push(column)
  }
  for (const [field, { long, type, partOf }] of Object.entries(SOURCE[meaning.from].fields)) {
    if (!partOf && type !== 'words' && type !== 'relevance' && (!long || single))
      select(`${alias}.${field}`, { key: field, field, type })
  }
  for (const relation of selected) {
    const { source } = SOURCE[meaning.from].relations[relation] ?? { source: 'images' as const }
    for (const field of RELATED_FIELDS[source]) {
      const type =
        source === 'images'
          ? /^(id|width|height)$/.test(field)
            ? 'integer'
            : 'text'
          : (SOURCE[source].fields[field]?.type ?? 'text')
      // The alternative text belongs to the post's use of an image, not to the image.
      const expression =
        source === 'images' && field === 'text' ? `${alias}.imageText` : `${relation}.${field}`
      select(expression, { key: `${relation}_${field}`, relation, field, type })
    }
  }
  for (const count of meaning.counts)
    select(countExpression(meaning.from, count, alias), { key: count, field: count, type: 'count' })

  const searched = fieldConditionsOf(clausesOf(meaning)).find((one) => one.is === 'matches')
  if (searched) {
    builder.setParameter('searched', slotFor(searched.to))
    const plain = `${alias}.excerpt || ' ' || regexp_replace(${alias}.html, '<[^>]*>', ' ', 'g')`
    const extract = `ts_headline('${locale.searchConfiguration}', ${plain}, ${searchQuery(locale, ':searched')}, '${EXTRACT}')`
    select(extract, { key: 'found', field: 'found', type: 'extract' })
  }

  for (const { field, descending } of meaning.order) {
    if (field === 'relevance') {
      builder.addOrderBy(rankExpression(alias, locale, ':searched'), descending ? 'DESC' : 'ASC')
      continue
    }
    // A published post has a date: then the index serves the order as it is.
    const isSet = meaning.named.some((name) => SOURCE[meaning.from].conditions[name]?.fields.includes(field))
    const nullable = !isSet && findField(meaning.from, field)?.field.nullable === true
    const order = descending ? 'DESC' : 'ASC'
    builder.addOrderBy(
      expressionOf(meaning.from, alias, field, locale),
      order,
      ...(nullable ? (['NULLS LAST'] as const) : []),
    )
  }
  if (meaning.take.kind === 'one') builder.limit(1)
  if (meaning.take.kind === 'first') builder.limit(meaning.take.count)
  if (meaning.take.kind === 'pages') builder.limit(meaning.take.size)
  const items = statement(builder)
  if (meaning.take.kind === 'pages') {
    items.sql += ` OFFSET $${items.slots.length + 1}`
    items.slots.push({ kind: 'offset' })
  }

  const many = meaning.relations
    .filter((relation) => SOURCE[meaning.from].relations[relation]?.many)
    .map((relation) => compileMany(database, relation))
  return { items, ...(total ? { total } : {}), many, columns }
}

function applyConditions(
  builder: Builder,
  meaning: QueryMeaning,
  alias: string,
  locale: Locale,
  liftPublished: boolean,
): void {
  const values: Record<string, Marker> = {}
  const made = new ClauseSql(meaning.from, alias, locale, (value) => {
    const key = `value${Object.keys(values).length}`
    values[key] = slotFor(value)
    return `:${key}`
  })
  for (const clause of clausesOf(meaning)) {
    if (liftPublished && clause.kind === 'named' && clause.name === 'published') continue
    builder.andWhere(made.of(clause))
  }
  builder.setParameters(values)
}

/**
 * Where one row stands among all rows of a query, in its order, 1-based.
 * @returns a statement with the parameter `row`, the id; it gives `position`, or no row
 */
export function compilePosition(database: DataSource, meaning: QueryMeaning, locale: Locale): Statement {
  const alias = SOURCE[meaning.from].words[0]
  const builder: Builder = database
    .getRepository<ObjectLiteral>(ENTITY[meaning.from])
    .createQueryBuilder(alias)
  const relations = [...fieldConditionsOf(clausesOf(meaning)), ...meaning.order].flatMap(({ field }) =>
    field.includes('.') && SOURCE[meaning.from].relations[field.split('.')[0] ?? '']?.many === false
      ? [field.split('.')[0] ?? '']
      : [],
  )
  for (const relation of new Set(relations)) builder.leftJoin(`${alias}.${relation}`, relation)
  applyConditions(builder, meaning, alias, locale, false)
  const order = meaning.order
    .map(
      ({ field, descending }) =>
        `${expressionOf(meaning.from, alias, field, locale)} ${descending ? 'DESC' : 'ASC'} NULLS LAST`,
    )
    .join(', ')
  builder.select(`${alias}.id`, 'id').addSelect(`row_number() OVER (ORDER BY ${order})`, 'position')
  const { sql, slots } = statement(builder)
  return {
    sql: `SELECT position::int AS position FROM (${sql}) AS placed WHERE id = $${slots.length + 1}`,
    slots: [...slots, { kind: 'parameter', name: 'row' }],
  }
}

/**
 * The different combinations of some fields among the rows of a query, page by page.
 * @param fields by the names their values get
 */
export function compileDistinct(
  database: DataSource,
  meaning: QueryMeaning,
  fields: Readonly<Record<string, string>>,
  locale: Locale,
): { items: Statement; total: Statement } {
  const alias = SOURCE[meaning.from].words[0]
  const builder: Builder = database
    .getRepository<ObjectLiteral>(ENTITY[meaning.from])
    .createQueryBuilder(alias)
  const relations = [
    ...fieldConditionsOf(clausesOf(meaning)).map((one) => one.field),
    ...Object.values(fields),
  ].flatMap((field) => (field.includes('.') ? [field.split('.')[0] ?? ''] : []))
  for (const relation of new Set(relations)) builder.leftJoin(`${alias}.${relation}`, relation)
  applyConditions(builder, meaning, alias, locale, false)
  builder.select([])
  for (const [name, field] of Object.entries(fields))
    builder.addSelect(expressionOf(meaning.from, alias, field, locale), name)
  const { sql, slots } = statement(builder)
  const distinct = `SELECT DISTINCT * FROM (${sql}) AS every_row`
  const names = Object.keys(fields)
    .map((name) => `"${name}"`)
    .join(', ')
  return {
    items: {
      sql: `${distinct} ORDER BY ${names} LIMIT $${slots.length + 1} OFFSET $${slots.length + 2}`,
      slots: [...slots, { kind: 'parameter', name: 'limit' }, { kind: 'offset' }],
    },
    total: { sql: `SELECT count(*) AS total FROM (${distinct}) AS different`, slots },
  }
}

function compileMany(database: DataSource, relation: string) {
  const builder: Builder = database
    .getRepository<ObjectLiteral>(TagEntity)
    .createQueryBuilder('tag')
    .innerJoin('post_tag', 'link', 'link.tag_id = tag.id')
    .select('link.post_id', 'owner')
  const columns: OutputColumn[] = RELATED_FIELDS.tags.map((field) => ({
    key: field,
    field,
    type: SOURCE.tags.fields[field]?.type ?? 'text',
  }))
  for (const { key, field } of columns) builder.addSelect(`tag.${field}`, key)
  builder
    .where('link.post_id = ANY(:ids)', { ids: new Marker({ kind: 'ids' }) })
    .orderBy('tag.name')
    .addOrderBy('tag.id')
  return { relation, statement: statement(builder), columns }
}

/** The built SQL with the position of every value. */
function statement(builder: Builder): Statement {
  const [sql, values] = builder.getQueryAndParameters()
  const slots = values.map((value: unknown): Slot =>
    value instanceof Marker ? value.slot : { kind: 'fixed', value },
  )
  return { sql, slots }
}
