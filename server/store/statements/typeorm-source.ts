/** Prints a query plan as TypeORM source code, as a developer would write it by hand. */
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import {
  planQuery,
  type PlanExpression,
  type PlanValue,
  type QueryPlan,
  type SortKey,
} from '../../../core/queries/plan.ts'
import { keysetSql } from './keyset.ts'
import { entityName } from './query-builder.ts'
import { expressionSql, predicateSql, type Locale } from './sql.ts'

/**
 * Returns code that is valid TypeScript and JavaScript. It reads `database` (a DataSource), the class of the entity, the
 * query's parameters by name in an object `parameters`, and for a paged query `page` or `after`.
 */
export function typeormSource(meaning: QueryMeaning, locale: Locale): string {
  return new SourcePrinter(planQuery(meaning), meaning, locale).print()
}

class SourcePrinter {
  readonly #plan: QueryPlan
  readonly #meaning: QueryMeaning
  readonly #locale: Locale
  /** Name of a bound value → the code that evaluates to it. */
  readonly #values: Record<string, string> = {}
  /** Each value is bound under one name, however often the SQL reads it. */
  readonly #bound = new Map<string, string>()

  constructor(plan: QueryPlan, meaning: QueryMeaning, locale: Locale) {
    this.#plan = plan
    this.#meaning = meaning
    this.#locale = locale
  }

  print(): string {
    const { take } = this.#plan
    if (this.#plan.groupBy.length > 0) return this.#counts()
    const lines = this.#rows()
    const [limit, offset] = this.#hasMany ? ['take', 'skip'] : ['limit', 'offset']
    if (take.kind === 'one') lines.push(`.${limit}(1)`)
    if (take.kind === 'first') lines.push(`.${limit}(${take.count})`)
    if (take.kind === 'pages' && take.by === 'cursor') return this.#cursor(lines, limit, take.size)
    if (take.kind === 'pages') lines.push(`.${offset}((page - 1) * ${take.size})`, `.${limit}(${take.size})`)
    if (this.#meaning.counts.length > 0) {
      // Counts are not columns of the entity: they are returned beside it.
      const total = take.kind === 'pages' ? 'const total = await query.getCount()\n' : ''
      return `const query = ${chain(lines)}\nconst { entities, raw } = await query.getRawAndEntities()\n${total}`
    }
    const result = { pages: '[rows, total]', one: '[row = null]', first: 'rows', all: 'rows' }[take.kind]
    const method = take.kind === 'pages' ? 'getManyAndCount' : 'getMany'
    return `const ${result} = await ${chain(lines)}\n  .${method}()\n`
  }

  get #hasMany(): boolean {
    return this.#plan.manyRelations.length > 0
  }

  /** Repository, fetched relations and counts, joins, conditions, order and parameters. */
  #rows(): string[] {
    const { source, alias, conditionJoins, orderJoins } = this.#plan
    const { relations, counts } = this.#meaning
    const joins = [...conditionJoins, ...orderJoins].filter((one) => !relations.includes(one.relation))
    const lines = [
      `.getRepository(${entityName(source)})`,
      `.createQueryBuilder('${alias}')`,
      ...relations.map((one) => `.leftJoinAndSelect('${alias}.${one}', '${one}')`),
      ...joins.map((one) => `.leftJoin('${alias}.${one.relation}', '${one.relation}')`),
      ...counts.map((name) => `.addSelect(${quoted(this.#sql({ kind: 'count', source, name }))}, '${name}')`),
      ...this.#where(),
      ...this.#plan.order.flatMap((key, index) => this.#orderBy(key, index)),
    ]
    return [...lines, ...this.#parameters()]
  }

  #where(): string[] {
    const { source, alias, where } = this.#plan
    const options = { alias, locale: this.#locale, bind: (value: PlanValue) => this.#bind(value) }
    return where.map(
      (one, index) => `.${index === 0 ? 'where' : 'andWhere'}(${quoted(predicateSql(source, one, options))})`,
    )
  }

  #orderBy(key: SortKey, index: number): string[] {
    const sql = this.#orderSql(key)
    const isField = key.expression.kind === 'field'
    // With a to-many relation, TypeORM pages entities, and what it orders by must be a field or have a name.
    const name = this.#hasMany && !isField ? `by_${index + 1}` : undefined
    const nulls = key.nullable || this.#isPartlyRanked(key) ? `, 'NULLS LAST'` : ''
    const direction = key.descending ? 'DESC' : 'ASC'
    return [
      ...(name === undefined ? [] : [`.addSelect(${quoted(sql)}, '${name}')`]),
      `.${index === 0 ? 'orderBy' : 'addOrderBy'}(${name === undefined ? quoted(sql) : `'${name}'`}, '${direction}'${nulls})`,
    ]
  }

  #isPartlyRanked({ expression }: SortKey): boolean {
    return expression.kind === 'relevance' && this.#plan.ranked !== undefined
  }

  #orderSql(key: SortKey): string {
    const sql = this.#sql(key.expression)
    if (!this.#isPartlyRanked(key)) return sql
    const others = this.#plan.order
      .slice(1)
      .map(
        ({ expression, descending, nullable }) =>
          `${this.#sql(expression)} ${descending ? 'DESC' : 'ASC'}${nullable ? ' NULLS LAST' : ''}`,
      )
    // A row that a to-many relation repeats has one rank.
    return `CASE WHEN dense_rank() OVER (ORDER BY ${others.join(', ')}) <= ${this.#plan.ranked} THEN ${sql} END`
  }

  #sql(expression: PlanExpression): string {
    const { alias, searched } = this.#plan
    return expressionSql(expression, {
      alias,
      locale: this.#locale,
      ...(searched ? { searched: this.#bind(searched) } : {}),
    })
  }

  #bind(value: PlanValue): string {
    const key = JSON.stringify(value)
    const known = this.#bound.get(key)
    if (known !== undefined) return known
    const name =
      value.kind === 'parameter'
        ? value.name.replace(/-/g, '_')
        : `value${Object.keys(this.#values).length + 1}`
    this.#values[name] =
      value.kind === 'parameter'
        ? `parameters[${JSON.stringify(value.name)}] ?? null`
        : JSON.stringify(value.value)
    this.#bound.set(key, `:${name}`)
    return `:${name}`
  }

  #parameters(): string[] {
    const entries = Object.entries(this.#values).map(([key, value]) => `${key}: ${value}`)
    return entries.length === 0 ? [] : [`.setParameters({ ${entries.join(', ')} })`]
  }

  /** A page after the row whose sort keys are `after`, as texts; null starts at the beginning. */
  #cursor(lines: readonly string[], limit: string, size: number): string {
    const keys = this.#plan.order.map((one) => ({ ...one, sql: this.#sql(one.expression) }))
    const where = keysetSql(keys, 'after', (index) => `:after${index}`)
    const values = keys.map((_, index) => `after${index}: after[${index}]`).join(', ')
    return [
      `const query = ${chain(lines)}`,
      `if (after) query.andWhere(${quoted(where)}, { ${values} })`,
      `// One more row than is shown tells whether there is a next page.`,
      `const found = await query.${limit}(${size + 1}).getMany()`,
      `const [rows, hasNext] = [found.slice(0, ${size}), found.length > ${size}]\n`,
    ].join('\n')
  }

  #counts(): string {
    const { source, alias, columns, groupBy, conditionJoins, orderJoins, take, order } = this.#plan
    const lines = [
      `.getRepository(${entityName(source)})`,
      `.createQueryBuilder('${alias}')`,
      ...[...conditionJoins, ...orderJoins].map(
        ({ relation, kind }) => `.${kind}Join('${alias}.${relation}', '${relation}')`,
      ),
      ...columns.map(
        ({ key, expression }, index) =>
          `.${index === 0 ? 'select' : 'addSelect'}(${quoted(this.#sql(expression))}, '${key}')`,
      ),
      ...this.#where(),
      ...groupBy.map((one, index) => `.${index === 0 ? 'groupBy' : 'addGroupBy'}(${quoted(this.#sql(one))})`),
      ...order.flatMap((key, index) => this.#orderBy(key, index)),
      ...this.#parameters(),
      ...(take.kind === 'first' ? [`.limit(${take.count})`] : []),
    ]
    return `const rows = await ${chain(lines)}\n  .getRawMany()\n`
  }
}

const chain = (lines: readonly string[]) => `database\n${lines.map((line) => `  ${line}`).join('\n')}`

const quoted = (text: string) => (text.includes("'") ? `\`${text.replace(/[`\\$]/g, '\\$&')}\`` : `'${text}'`)
