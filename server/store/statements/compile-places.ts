/** Statements of the workbench about the rows of a query: where one of them is, and which combinations of values exist. */
import type { DataSource } from 'typeorm'
import { fieldConditionsOf, parameterOf } from '../../../core/queries/clauses.ts'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { expressionOf, planQuery } from '../../../core/queries/plan.ts'
import { SOURCE } from '../../../core/queries/sources.ts'
import { PlanBuilder } from './query-builder.ts'
import type { Locale } from './sql.ts'
import { extended, statement, type Statement } from './statement.ts'

const builderFor = (database: DataSource, meaning: QueryMeaning, locale: Locale) =>
  new PlanBuilder(database, planQuery(meaning), locale)

/**
 * Compiles the position of a row among all rows of a query, in its order, 1-based.
 * @returns a statement with the parameter `row`, an id; it returns `position`, or no row
 */
export function compilePosition(database: DataSource, meaning: QueryMeaning, locale: Locale): Statement {
  const builder = builderFor(database, meaning, locale)
  const { alias, order, orderJoins } = builder.plan
  const rows = builder
    .join(builder.bindSearched(builder.matching()), orderJoins)
    .select(`${alias}.id`, 'id')
    .addSelect(`row_number() OVER (ORDER BY ${builder.orderSql(order)})`, 'position')
  return extended(
    statement(rows),
    (sql, at) =>
      `SELECT position::int AS position FROM (${sql}) AS placed WHERE id = ${at({ kind: 'parameter', name: 'row' })}`,
  )
}

/**
 * Compiles the distinct combinations of some fields among the rows of a query, in pages.
 * @param fields name of the value → field
 */
export function compileDistinct(
  database: DataSource,
  meaning: QueryMeaning,
  fields: Readonly<Record<string, string>>,
  locale: Locale,
): { items: Statement; total: Statement } {
  const { from } = meaning
  const builder = builderFor(database, { ...meaning, order: Object.values(fields).map(rising) }, locale)
  const rows = builder.join(builder.matching(), builder.plan.orderJoins)
  builder.select(
    rows,
    Object.entries(fields).map(([name, field]) => ({
      sql: builder.sql(expressionOf(from, field)),
      key: name,
    })),
  )
  const every = statement(rows)
  const distinct = `SELECT DISTINCT * FROM (${every.sql}) AS every_row`
  const names = Object.keys(fields)
    .map((name) => `"${name}"`)
    .join(', ')
  return {
    items: extended(
      every,
      (_, at) =>
        `${distinct} ORDER BY ${names} LIMIT ${at({ kind: 'limit' })} OFFSET ${at({ kind: 'offset' })}`,
    ),
    total: { sql: `SELECT count(*) AS total FROM (${distinct}) AS different`, slots: every.slots },
  }
}

const rising = (field: string) => ({ field, descending: false })

/**
 * Compiles a search for two rows that are equal in every sort key, of which the first is the last of a page. Conditions
 * with parameters are left out. The statement returns `first`, `second` and `page`, or no row.
 */
export function compileTies(
  database: DataSource,
  meaning: QueryMeaning,
  size: number,
  locale: Locale,
): Statement {
  const order = meaning.order.filter((one) => one.field !== 'relevance')
  const builder = builderFor(database, { ...withoutParameters(meaning), order }, locale)
  const { alias, orderJoins } = builder.plan
  const keys = builder.plan.order
  const label = 'title' in SOURCE[meaning.from].fields ? 'title' : 'name'
  const rows = builder.join(builder.matching(), orderJoins)
  builder.select(rows, [
    { sql: `${alias}.${label}`, key: 'label' },
    ...keys.map(({ expression }, at) => ({ sql: builder.sql(expression), key: `key_${at}` })),
  ])
  const { sql, slots } = statement(rows)
  const by = keys
    .map(({ descending }, at) => `key_${at} ${descending ? 'DESC' : 'ASC'} NULLS LAST`)
    .join(', ')
  const window = by === '' ? '' : `ORDER BY ${by}`
  const same = keys.map((_, at) => `key_${at} IS NOT DISTINCT FROM next_${at}`).join(' AND ')
  const next = keys.map((_, at) => `, key_${at}, lead(key_${at}) OVER placed AS next_${at}`).join('')
  return {
    sql: `SELECT label AS first, next_label AS second, (place / ${size})::int AS page FROM (
      SELECT label, lead(label) OVER placed AS next_label, row_number() OVER placed AS place${next}
      FROM (${sql}) AS every_row WINDOW placed AS (${window})) AS pairs
      WHERE next_label IS NOT NULL AND place % ${size} = 0${same === '' ? '' : ` AND ${same}`} ORDER BY place LIMIT 1`,
    slots,
  }
}

/** Returns the query without the conditions that read parameters. */
function withoutParameters(meaning: QueryMeaning): QueryMeaning {
  const isFixed = ({ to }: { to?: unknown }) => [to].flat().every((one) => parameterOf(one) === undefined)
  return {
    ...meaning,
    conditions: meaning.conditions.filter(isFixed),
    groups: meaning.groups.filter((one) => fieldConditionsOf([one]).every(isFixed)),
  }
}
