/**
 * Compiles a query to statements, once. Each request only binds values. There is one statement for a listing, one for its
 * total and one for each to-many relation, never one for each row. Names come from core/queries/sources.ts.
 */
import { LRUCache } from 'lru-cache'
import type { DataSource, ObjectLiteral } from 'typeorm'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import {
  planQuery,
  type PlanColumn,
  type QueryPlan,
  type SortKey,
  type Visibility,
} from '../../../core/queries/plan.ts'
import { readsOfPlan, type PlanReads } from '../../../core/queries/plan-reads.ts'
import { hashOf } from '../../../core/shapes/hash.ts'
import { RANKED_MOST } from '../../../core/queries/ranked.ts'
import { RELATED_FIELDS, SOURCE } from '../../../core/queries/sources.ts'
import type { Wanted } from '../../../core/queries/wanted.ts'
import { TagEntity } from '../entities/content.ts'
import { compileRanked, type RankedQuery } from './compile-ranked.ts'
import { keysetSql, type SqlKey } from './keyset.ts'
import { PlanBuilder } from './query-builder.ts'
import type { Locale } from './sql.ts'
import { Marker, nested, statement, withOffset, type Builder, type Statement } from './statement.ts'

/** How a column of a raw row becomes a value of the row that templates see. */
export type OutputColumn = Pick<PlanColumn, 'key' | 'relation' | 'field' | 'type'>

export interface CompiledQuery {
  /** The rows; of a paged query, those of the first page. `choose-statement.ts` decides which statement is run. */
  items: Statement
  /** Numbered pages after the first: finds the ids first, then everything else of these rows only. */
  further?: Statement
  total?: Statement
  /** Of a search that is ordered by relevance. */
  ranked?: RankedQuery
  /** Of a total that may be estimated: the rows for the planner, and a count that stops at a bound. */
  estimate?: { explained: Statement; bounded: Statement; bound: number }
  /** Of a cursor listing: the rows after and before a row, and whether there is one at all. */
  cursor?: Record<'after' | 'before', { items: Statement; probe: Statement }> & {
    /** The cursor of the row at an offset. */
    nth: Statement
  }
  /** Of numbered pages of comments: the order of a row by its id, and how many rows come before it. */
  place?: { edges: Statement; before: Statement }
  /** To-many relations, fetched for all rows at once. */
  many: { relation: string; statement: Statement; columns: OutputColumn[] }[]
  columns: readonly OutputColumn[]
  /** What it reads, from which follows what its result depends on. */
  reads: PlanReads
  /** The fetched fields, as templates name them, e.g. `category.slug`. */
  fields: readonly string[]
  /** Identifies the query's meaning and how it reads times and words. */
  state: string
  timeZone: string
}

/** The statements of a query, to which its reads are added. */
type CompiledStatements = Omit<CompiledQuery, 'reads' | 'fields' | 'state' | 'timeZone'>

/** Compiled queries that are remembered: a save compiles the whole definition, of which one document has changed. */
const REMEMBERED = 1_000
const remembered = new WeakMap<DataSource, LRUCache<string, CompiledQuery>>()

/** @param wanted what to fetch; without it, everything */
export function compileQuery(
  database: DataSource,
  meaning: QueryMeaning,
  visibility: Visibility,
  locale: Locale,
  wanted?: Wanted,
): CompiledQuery {
  let known = remembered.get(database)
  if (!known) remembered.set(database, (known = new LRUCache({ max: REMEMBERED })))
  const key = `${visibility} ${locale.timeZone} ${locale.searchConfiguration} ${wanted?.join() ?? '*'} ${JSON.stringify(meaning)}`
  const found = known.get(key)
  if (found) return found
  const made = {
    ...compilePlan(database, planQuery(meaning, { visibility, wanted }), locale),
    state: queryState(meaning, locale),
    timeZone: locale.timeZone,
  }
  known.set(key, made)
  return made
}

/** Returns what identifies a meaning, and how it reads times and words. */
export const queryState = (meaning: QueryMeaning, { timeZone, searchConfiguration }: Locale): string =>
  hashOf(JSON.stringify([meaning, timeZone, searchConfiguration]))

function compilePlan(
  database: DataSource,
  plan: QueryPlan,
  locale: Locale,
): Omit<CompiledQuery, 'state' | 'timeZone'> {
  const builder = new PlanBuilder(database, plan, locale)
  const statements =
    plan.groupBy.length > 0 ? compileCounts(builder) : new RowCompiler(database, builder).compile()
  const fields = statements.columns.map(({ relation, field }) =>
    relation === undefined ? field : `${relation}.${field}`,
  )
  const many = statements.many.flatMap(({ relation, columns }) =>
    columns.map(({ field }) => `${relation}.${field}`),
  )
  return { ...statements, reads: readsOfPlan(plan), fields: [...fields, ...many].sort() }
}

/** Name of the column that holds a value of the row's cursor. */
export const cursorColumn = (index: number) => `cursor_${index}`

class RowCompiler {
  readonly #database: DataSource
  readonly #builder: PlanBuilder
  readonly #plan: QueryPlan
  readonly #isCursor: boolean
  /** Rows that a statement takes; 0 for all. One more than are shown if nothing else tells whether there are more. */
  readonly #limit: number

  constructor(database: DataSource, builder: PlanBuilder) {
    this.#database = database
    this.#builder = builder
    this.#plan = builder.plan
    const { take } = this.#plan
    this.#isCursor = take.kind === 'pages' && take.by === 'cursor'
    const isCounted = take.kind === 'pages' && take.by === 'number' && take.count === 'exact'
    this.#limit =
      take.kind === 'pages'
        ? take.size + (isCounted ? 0 : 1)
        : take.kind === 'first'
          ? take.count
          : take.kind === 'one'
            ? 1
            : 0
  }

  compile(): CompiledStatements {
    const { take, order, columns, manyRelations } = this.#plan
    const ranked = compileRanked(this.#builder, {
      limit: this.#limit,
      wholeRows: (ids, keys) => this.#rowsOf(ids, keys),
    })
    const isPaged = take.kind === 'pages'
    return {
      // The first page has no OFFSET: PostgreSQL would plan for any offset, and so for a tenth of all rows.
      items:
        ranked?.byIndex.best ?? statement(this.#limited(this.#builder.order(this.#matchingRows(), order))),
      ...(ranked ? { ranked } : isPaged && !this.#isCursor ? { further: this.#further() } : {}),
      ...(isPaged && take.count !== 'none'
        ? { total: statement(this.#builder.matching().select('count(*)', 'total')) }
        : {}),
      ...(isPaged && take.count === 'estimated' ? { estimate: this.#estimate() } : {}),
      ...(this.#isCursor
        ? { cursor: { after: this.#beyond('after'), before: this.#beyond('before'), nth: this.#nth() } }
        : {}),
      ...(isPaged && !this.#isCursor && this.#plan.source === 'comments' ? { place: this.#place() } : {}),
      many: manyRelations.map((relation) => compileMany(this.#database, relation)),
      columns,
    }
  }

  #limited(builder: Builder): Builder {
    return this.#limit > 0 ? builder.limit(this.#limit) : builder
  }

  /** Matching rows with nothing but what their order reads. */
  #bare(): Builder {
    return this.#builder.join(this.#builder.bindSearched(this.#builder.matching()), this.#plan.orderJoins)
  }

  /** Matching rows with everything that is fetched. */
  #matchingRows(): Builder {
    const joined = [...this.#plan.conditionJoins, ...this.#plan.orderJoins].map((one) => one.relation)
    const relations = this.#plan.relations.filter((one) => !joined.includes(one))
    return this.#selected(this.#builder.join(this.#bare(), relations.map(left)))
  }

  #selected(builder: Builder): Builder {
    const columns = this.#plan.columns.map(({ key, expression }) => ({
      sql: this.#builder.sql(expression),
      key,
    }))
    return this.#builder.select(builder, this.#isCursor ? [...columns, ...this.#edges()] : columns)
  }

  /** The values of a row's cursor, as texts. */
  #edges() {
    return this.#plan.order.map(({ expression }, index) => ({
      sql: `CAST(${this.#builder.sql(expression)} AS text)`,
      key: cursorColumn(index),
    }))
  }

  /** Everything of the rows whose ids a statement finds. */
  #rowsOf(ids: Statement, keys: readonly SortKey[]): Statement {
    const { alias, relations, orderReads } = this.#plan
    const table = this.#builder.bindSearched(this.#builder.table())
    const joins = [...new Set([...relations, ...orderReads.map((one) => one.relation)])].map(left)
    const rows = this.#selected(this.#builder.join(table, joins))
    rows.where(`${alias}.id = ANY (:found)`, { found: new Marker({ kind: 'found-ids' }) })
    return nested(statement(this.#builder.order(rows, keys)), ids)
  }

  #further(): Statement {
    const { alias, order } = this.#plan
    const ids = this.#limited(this.#builder.order(this.#bare().select(`${alias}.id`, 'id'), order))
    return this.#rowsOf(withOffset(statement(ids)), order)
  }

  #nth(): Statement {
    const row = this.#builder.order(this.#builder.select(this.#bare(), this.#edges()), this.#plan.order)
    return withOffset(statement(row.limit(1)))
  }

  /** Where among the matching rows one of them is. */
  #place(): NonNullable<CompiledQuery['place']> {
    const row = this.#builder.select(this.#bare(), this.#edges())
    row.andWhere(`${this.#plan.alias}.id = ANY (:ids)`, { ids: new Marker({ kind: 'ids' }) })
    const { rows } = this.#beyondCursor('before')
    return { edges: statement(row), before: statement(rows(this.#bare()).select('count(*)', 'place')) }
  }

  #beyondCursor(toward: 'after' | 'before') {
    const { order } = this.#plan
    const keys = order.map((one): SqlKey => ({ ...one, sql: this.#builder.sql(one.expression) }))
    const values: Record<string, Marker> = {}
    const where = keysetSql(keys, toward, (index) => {
      values[`cursor${index}`] = new Marker({ kind: 'cursor', index })
      return `:cursor${index}`
    })
    return { rows: (rows: Builder) => rows.andWhere(where).setParameters(values) }
  }

  #beyond(toward: 'after' | 'before') {
    const { order } = this.#plan
    const { rows: beyond } = this.#beyondCursor(toward)
    const items = this.#builder.order(beyond(this.#matchingRows()), order, toward === 'before')
    return {
      items: statement(this.#limited(items)),
      probe: statement(beyond(this.#bare()).select('1', 'there').limit(1)),
    }
  }

  #estimate(): NonNullable<CompiledQuery['estimate']> {
    const { alias, searched } = this.#plan
    const bound = searched ? RANKED_MOST : COUNTED_EXACTLY
    const some = statement(
      this.#builder
        .matching()
        .select('1', 'there')
        .limit(bound + 1),
    )
    return {
      explained: statement(this.#builder.matching({ forEstimate: true }).select(`${alias}.id`, 'id')),
      bounded: { sql: `SELECT count(*) AS total FROM (${some.sql}) AS counted`, slots: some.slots },
      bound,
    }
  }
}

const left = (relation: string) => ({ relation, kind: 'left' as const })

/** Rows are counted exactly up to this number where the total may be estimated; of a search, up to those ranked. */
const COUNTED_EXACTLY = 10_000

/** Counts the rows of each combination of the fields that a query counts by. */
function compileCounts(builder: PlanBuilder): CompiledStatements {
  const { columns, groupBy, order, orderJoins, take } = builder.plan
  const rows = builder.join(builder.matching(), orderJoins)
  builder.select(
    rows,
    columns.map(({ key, expression }) => ({ sql: builder.sql(expression), key })),
  )
  for (const expression of groupBy) rows.addGroupBy(builder.sql(expression))
  builder.order(rows, order)
  if (take.kind === 'first') rows.limit(take.count)
  return { items: statement(rows), many: [], columns }
}

/** Fetches a to-many relation for all rows of a listing at once. */
function compileMany(database: DataSource, relation: string) {
  const columns: OutputColumn[] = RELATED_FIELDS.tags.map((field) => ({
    key: field,
    field,
    type: SOURCE.tags.fields[field]?.type ?? 'text',
  }))
  const builder: Builder = database
    .getRepository<ObjectLiteral>(TagEntity)
    .createQueryBuilder('tag')
    .innerJoin('post_tag', 'link', 'link.tag_id = tag.id')
    .select('link.post_id', 'owner')
  for (const { key, field } of columns) builder.addSelect(`tag.${field}`, key)
  builder
    .where('link.post_id = ANY(:ids)', { ids: new Marker({ kind: 'ids' }) })
    .orderBy('tag.name')
    .addOrderBy('tag.id')
  return { relation, statement: statement(builder), columns }
}
