/** Statements of the workbench about a query's rows: where one stands, and which combinations of values there are. */
import type { DataSource } from 'typeorm'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { fieldConditionsOf, parameterOf } from '../../../core/queries/clauses.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import { applyConditions, builderOf, relationsIn } from './builder.ts'
import { expressionOf, type Locale } from './clause-sql.ts'
import { statement, type Statement } from './statement.ts'

/**
 * Where one row stands among all rows of a query, in its order, 1-based.
 * @returns a statement with the parameter `row`, the id; it gives `position`, or no row
 */
export function compilePosition(database: DataSource, meaning: QueryMeaning, locale: Locale): Statement {
  const alias = SOURCE[meaning.from].words[0]
  const builder = builderOf(database, meaning)
  const joined = applyConditions(builder, meaning, alias, locale)
  for (const relation of new Set(relationsIn(meaning.order)))
    if (!joined.has(relation)) builder.leftJoin(`${alias}.${relation}`, relation)
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
  const builder = builderOf(database, meaning)
  const joined = applyConditions(builder, meaning, alias, locale)
  for (const relation of new Set(relationsIn(Object.values(fields).map((field) => ({ field })))))
    if (!joined.has(relation)) builder.leftJoin(`${alias}.${relation}`, relation)
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

/**
 * Two rows that are the same in everything a query orders by, the first the last of a page; conditions that wait for an
 * address are left out. It gives `first`, `second` and `page`, or no row.
 */
export function compileTies(
  database: DataSource,
  meaning: QueryMeaning,
  size: number,
  locale: Locale,
): Statement {
  const alias = SOURCE[meaning.from].words[0]
  const builder = builderOf(database, meaning)
  const order = meaning.order.filter((one) => one.field !== 'relevance')
  const joined = applyConditions(builder, withoutParameters(meaning), alias, locale)
  for (const relation of new Set(relationsIn(order)))
    if (!joined.has(relation)) builder.leftJoin(`${alias}.${relation}`, relation)
  const keys = order.map(({ field }) => expressionOf(meaning.from, alias, field, locale))
  const by = order
    .map(({ descending }, at) => `key_${at} ${descending ? 'DESC' : 'ASC'} NULLS LAST`)
    .join(', ')
  const title = 'title' in SOURCE[meaning.from].fields ? 'title' : 'name'
  builder.select(`${alias}.${title}`, 'title')
  for (const [at, key] of keys.entries()) builder.addSelect(key, `key_${at}`)
  const { sql, slots } = statement(builder)
  const window = by === '' ? '' : `ORDER BY ${by}`
  const same = keys.map((_, at) => `key_${at} IS NOT DISTINCT FROM next_${at}`).join(' AND ')
  const next = keys.map((_, at) => `, lead(key_${at}) OVER placed AS next_${at}`).join('')
  return {
    sql: `SELECT title AS first, next_title AS second, (place / ${size})::int AS page FROM (
      SELECT title, lead(title) OVER placed AS next_title, row_number() OVER placed AS place${keys.map((_, at) => `, key_${at}`).join('')}${next}
      FROM (${sql}) AS every_row WINDOW placed AS (${window})) AS pairs
      WHERE next_title IS NOT NULL AND place % ${size} = 0${same === '' ? '' : ` AND ${same}`} ORDER BY place LIMIT 1`,
    slots,
  }
}

/** The query for every address at once. */
function withoutParameters(meaning: QueryMeaning): QueryMeaning {
  const isFixed = ({ to }: { to?: unknown }) => [to].flat().every((one) => parameterOf(one) === undefined)
  return {
    ...meaning,
    conditions: meaning.conditions.filter(isFixed),
    groups: meaning.groups.filter((one) => fieldConditionsOf([one]).every(isFixed)),
  }
}
