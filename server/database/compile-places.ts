/** Statements of the workbench about a query's rows: where one stands, and which combinations of values there are. */
import type { DataSource } from 'typeorm'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
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
  const joined = applyConditions(builder, meaning, alias, locale, false)
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
  const joined = applyConditions(builder, meaning, alias, locale, false)
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
