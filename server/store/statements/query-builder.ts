/** Prints a query plan through TypeORM's QueryBuilder: its source, joins, conditions and order. */
import type { DataSource, ObjectLiteral } from 'typeorm'
import type { Join, PlanValue, Predicate, QueryPlan, SortKey } from '../../../core/queries/plan.ts'
import type { SourceName } from '../../../core/shapes/schemas.ts'
import {
  AuthorEntity,
  CategoryEntity,
  CommentEntity,
  PageEntity,
  PostEntity,
  TagEntity,
} from '../entities/content.ts'
import { expressionSql, predicateSql, type Locale, type Search } from './sql.ts'
import { Marker, slotOf, type Builder } from './statement.ts'

/** The entity of each source. */
export const ENTITY_OF = {
  posts: PostEntity,
  pages: PageEntity,
  categories: CategoryEntity,
  tags: TagEntity,
  authors: AuthorEntity,
  comments: CommentEntity,
} as const

/** Returns the class name of a source's entity, for printed source code. */
export const entityName = (source: SourceName): string => ENTITY_OF[source].name

export interface BuildOptions {
  /** Prints ids into the text, for the planner's estimate only: its statistics know how many rows have a certain id. */
  forEstimate?: boolean
  search?: Search
}

/** Builds statements for one plan. */
export class PlanBuilder {
  readonly plan: QueryPlan
  readonly locale: Locale
  readonly #database: DataSource

  constructor(database: DataSource, plan: QueryPlan, locale: Locale) {
    this.#database = database
    this.plan = plan
    this.locale = locale
  }

  /** Returns a builder for the same plan with some of its predicates. */
  restricted(isKept: (predicate: Predicate) => boolean): PlanBuilder {
    return new PlanBuilder(
      this.#database,
      { ...this.plan, where: this.plan.where.filter(isKept) },
      this.locale,
    )
  }

  /** Returns a builder for the source's table without conditions. */
  table(): Builder {
    const { source, alias } = this.plan
    return this.#database.getRepository<ObjectLiteral>(ENTITY_OF[source]).createQueryBuilder(alias)
  }

  /** Returns a builder for the rows that match, with the joins that their conditions read. */
  matching({ forEstimate = false, search }: BuildOptions = {}): Builder {
    const { alias, source, where, conditionJoins } = this.plan
    const builder = this.table()
    const values: Record<string, Marker> = {}
    const note = (marker: Marker) => {
      const key = `value${Object.keys(values).length}`
      values[key] = marker
      return `:${key}`
    }
    const options = {
      alias,
      locale: this.locale,
      bind: (value: PlanValue) => note(new Marker(slotOf(value))),
      ...(forEstimate
        ? {
            search: 'estimate' as const,
            bindId: (table: string, field: string, value: PlanValue) =>
              note(new Marker({ kind: 'related-id', table, column: field, value: slotOf(value) })),
            bindWithin: (slug: PlanValue) => note(new Marker({ kind: 'ids-within', value: slotOf(slug) })),
          }
        : search
          ? { search }
          : {}),
    }
    for (const predicate of where) builder.andWhere(predicateSql(source, predicate, options))
    builder.setParameters(values)
    return this.join(builder, conditionJoins)
  }

  join(builder: Builder, joins: readonly Join[]): Builder {
    for (const { relation, kind } of joins)
      if (kind === 'inner') builder.innerJoin(`${this.plan.alias}.${relation}`, relation)
      else builder.leftJoin(`${this.plan.alias}.${relation}`, relation)
    return builder
  }

  /** Binds the searched text, which the relevance and the extract read. */
  bindSearched(builder: Builder): Builder {
    const { searched } = this.plan
    if (searched) builder.setParameter('searched', new Marker(slotOf(searched)))
    return builder
  }

  /** Selects nothing but some expressions. */
  select(builder: Builder, chosen: readonly { sql: string; key: string }[]): Builder {
    builder.select([])
    const seen = new Set<string>()
    for (const { sql, key } of chosen) {
      // TypeORM gives a column that is selected twice the name of the first one, unless it is an expression.
      builder.addSelect(seen.has(sql) ? `(${sql})` : sql, key)
      seen.add(sql)
    }
    return builder
  }

  sql(expression: SortKey['expression']): string {
    return expressionSql(expression, { alias: this.plan.alias, locale: this.locale })
  }

  /** Orders rows. Rows without a value come last, or first where the order is reversed. */
  order(builder: Builder, keys: readonly SortKey[], isReversed = false): Builder {
    for (const { expression, descending, nullable } of keys)
      builder.addOrderBy(
        this.sql(expression),
        descending === isReversed ? 'ASC' : 'DESC',
        // Where no value is missing, an index serves the order as it is.
        ...(nullable ? ([isReversed ? 'NULLS FIRST' : 'NULLS LAST'] as const) : []),
      )
    return builder
  }

  /** Prints the order for a window function. */
  orderSql(keys: readonly SortKey[]): string {
    return keys
      .map(
        ({ expression, descending, nullable }) =>
          `${this.sql(expression)} ${descending ? 'DESC' : 'ASC'}${nullable ? ' NULLS LAST' : ''}`,
      )
      .join(', ')
  }
}
