/** Runs compiled queries: binds values, turns raw rows into the rows that templates see, and derives their dependences. */
import type { StatementRun } from '../statement-reports.ts'
import type { Queryable } from '../connection.ts'
import { createHash } from 'node:crypto'
import type { Dependence } from '../../../core/caching/dependence.ts'
import { SafeHtml } from '../../../core/content/html/safe-html.ts'
import { commentHtml } from '../../../core/comments/render.ts'
import { extractHtml } from '../../../core/queries/extract.ts'
import type { Cursor } from '../../../core/paging/cursor.ts'
import type { QueryMeaning } from '../../../core/queries/meaning.ts'
import { cursorColumn, type CompiledQuery, type OutputColumn } from './compile-query.ts'
import { estimatedTotal } from './estimate.ts'
import { chooseStatement } from './choose-statement.ts'
import { dependenceOfResult, dependOnWhole, identifyRow } from './provenance.ts'
import { boundValues, type Binding, type Statement } from './statement.ts'

type CursorValues = Cursor['values']

export type Row = Record<string, unknown>
type RawRow = Record<string, unknown>

export interface QueryResult {
  rows: Row[]
  /** Number of all matching rows; undefined where the query does not count them. */
  total: number | undefined
  /** True if the total is PostgreSQL's estimate. */
  isEstimated: boolean
  /** Whether there are rows before and after these; undefined where this is not queried. */
  around: { before: boolean; after: boolean } | undefined
  /** Of a cursor listing: the cursors of the first and the last row; null without rows. */
  edges: { first: CursorValues; last: CursorValues } | null
  dependence: Dependence
  statements: StatementRun[]
}

/** A statement that failed. */
export class QueryFailure extends Error {
  constructor(
    readonly query: string,
    /** The statement, with the time until it failed. */
    readonly statement: StatementRun,
    override readonly cause: unknown,
  ) {
    super(cause instanceof Error ? cause.message : String(cause))
  }
}

const preparedNames = new WeakMap<Statement, string>()

/** Returns the name of the prepared statement: the same for the same SQL, whatever query it comes from. */
function preparedName(statement: Statement): string {
  const known = preparedNames.get(statement)
  if (known) return known
  const name = createHash('sha256').update(statement.sql).digest('base64url').slice(0, 24)
  preparedNames.set(statement, name)
  return name
}

export async function runStatement(
  pool: Queryable,
  query: string,
  statement: Statement,
  binding: Binding,
  runs: StatementRun[],
): Promise<RawRow[]> {
  const values = boundValues(statement, binding)
  const start = performance.now()
  try {
    const { rows } = await pool.query<RawRow>({ name: preparedName(statement), text: statement.sql, values })
    runs.push({ sql: statement.sql, values, rows: rows.length, milliseconds: performance.now() - start })
    return rows
  } catch (error) {
    const run = { sql: statement.sql, values, rows: 0, milliseconds: performance.now() - start }
    throw new QueryFailure(query, run, error)
  }
}

/** The page of a paged query: its number, 1-based, or the cursor it starts at; null for the first page. */
export type PageAsked = { number: number } | { cursor: Cursor | null }

export interface QueryRequest {
  /** Name of the query, for errors and for what identifies its result. */
  name: string
  meaning: QueryMeaning
  compiled: CompiledQuery
  parameters: Readonly<Record<string, unknown>>
  page?: PageAsked
}

export async function runQuery(pool: Queryable, request: QueryRequest): Promise<QueryResult> {
  const { meaning, compiled, parameters, name } = request
  const statements: StatementRun[] = []
  const run = (statement: Statement, binding: Partial<Binding> = {}) =>
    runStatement(pool, name, statement, { parameters, ...binding }, statements)
  const [found, counted] = await Promise.all([
    findRows(pool, request, run),
    countRows(pool, request, (statement) => run(statement)),
  ])
  const { raw, around } = found
  const rows = raw.map((one) => toRow(one, compiled.columns, meaning.from === 'comments'))
  if (meaning.countBy.length > 0) rows.forEach(withoutEmptyRelations)
  // The statements ran in parallel; the count is listed last.
  const isCount = ({ sql }: StatementRun) =>
    sql === compiled.total?.sql || sql === compiled.estimate?.bounded.sql
  statements.sort((a, b) => Number(isCount(a)) - Number(isCount(b)))
  for (const { relation, statement, columns } of compiled.many) {
    const ids = rows.map((row) => Number(row['id']))
    const links = ids.length === 0 ? [] : await run(statement, { ids })
    for (const row of rows) {
      row[relation] = links.filter((link) => link['owner'] === row['id']).map((link) => toRow(link, columns))
    }
  }
  const dependence = dependenceOfResult(request, rows)
  if (meaning.countBy.length > 0) for (const row of rows) dependOnWhole(row, dependence)
  else for (const row of rows) identifyRow(meaning.from, compiled, row)
  const edge = (one: RawRow | undefined) => one && edgeOf(meaning.order, one)
  const [first, last] = compiled.cursor ? [edge(raw[0]), edge(raw.at(-1))] : []
  return {
    rows,
    total: counted?.total,
    isEstimated: counted?.isEstimated ?? false,
    around,
    edges: first && last ? { first, last } : null,
    statements,
    dependence,
  }
}

type Run = (statement: Statement, binding?: Partial<Binding>) => Promise<RawRow[]>

async function findRows(
  pool: Queryable,
  { name, meaning: { take, order }, compiled, parameters, page = { number: 1 } }: QueryRequest,
  run: Run,
): Promise<{ raw: RawRow[]; around?: QueryResult['around'] }> {
  const from = async (offset: number) =>
    await run(
      await explained(name, compiled, () => chooseStatement(pool, compiled, { parameters, offset })),
      {
        offset,
      },
    )
  if (take.kind !== 'pages') return { raw: await from(0) }
  const { size } = take
  if (!compiled.cursor) {
    const offset = ((('number' in page ? page.number : undefined) ?? 1) - 1) * size
    const raw = await from(offset)
    if (take.count === 'exact') return { raw }
    const isLastRanked = offset + size === compiled.ranked?.most && raw.length === size
    const isMore = raw.length > size || (isLastRanked && (await from(offset + size)).length > 0)
    return { raw: raw.slice(0, size), around: { before: offset > 0, after: isMore } }
  }
  const cursor = 'cursor' in page ? page.cursor : null
  if (cursor === null) {
    const raw = await run(compiled.items)
    return { raw: raw.slice(0, size), around: { before: false, after: raw.length > size } }
  }
  const { toward, values } = cursor
  const behind = toward === 'after' ? 'before' : 'after'
  const isThere = async (at: CursorValues) =>
    (await run(compiled.cursor?.[behind].probe ?? compiled.items, { cursor: at })).length > 0
  // Rows in the other direction are queried at the same time. The row at the cursor itself is not beyond it.
  const [found, isBeyond] = await Promise.all([
    run(compiled.cursor[toward].items, { cursor: values }),
    isThere(values),
  ])
  const isMore = found.length > size
  const raw = found.slice(0, size)
  if (toward === 'before') raw.reverse()
  const edge = toward === 'after' ? raw[0] : raw.at(-1)
  if (!edge) return { raw, around: { before: false, after: false } }
  const isBehind = isBeyond || (await isThere(edgeOf(order, edge)))
  return {
    raw,
    around: toward === 'after' ? { before: isBehind, after: isMore } : { before: isMore, after: isBehind },
  }
}

/**
 * Returns the cursor of the row at an offset of a cursor listing, or undefined if there is no such row.
 * @param place 0-based
 */
export async function edgeAt(
  pool: Queryable,
  { name, meaning, compiled, parameters }: Omit<QueryRequest, 'page'>,
  place: number,
): Promise<Cursor['values'] | undefined> {
  if (!compiled.cursor) throw new Error(`“${name}” is not a cursor listing`)
  const [row] = await runStatement(pool, name, compiled.cursor.nth, { parameters, offset: place }, [])
  return row && edgeOf(meaning.order, row)
}

/** Returns how many rows of a listing come before the row with an id; undefined if the row is not in it. */
export async function placeOfRow(
  pool: Queryable,
  { name, compiled, parameters }: Omit<QueryRequest, 'page' | 'meaning'>,
  id: number,
): Promise<number | undefined> {
  const { place } = compiled
  if (!place) return undefined
  const [row] = await runStatement(pool, name, place.edges, { parameters, ids: [id] }, [])
  if (!row) return undefined
  const cursor = Object.keys(row)
    .filter((one) => one.startsWith('cursor_'))
    .map((_, index) => row[cursorColumn(index)] as string | null)
  const [found] = await runStatement(pool, name, place.before, { parameters, cursor }, [])
  return Number(found?.['place'] ?? 0)
}

async function countRows(
  pool: Queryable,
  { name, compiled, parameters }: QueryRequest,
  run: Run,
): Promise<{ total: number; isEstimated: boolean } | undefined> {
  const { estimate } = compiled
  if (estimate)
    return await explained(name, compiled, () => estimatedTotal(pool, estimate, { parameters }, run))
  if (!compiled.total) return undefined
  const [row] = await run(compiled.total)
  return { total: Number(row?.['total'] ?? 0), isEstimated: false }
}

/** Runs a request for the planner's estimate; its errors count as the query's. */
async function explained<T>(name: string, compiled: CompiledQuery, work: () => Promise<T>): Promise<T> {
  try {
    return await work()
  } catch (error) {
    if (error instanceof QueryFailure) throw error
    const { sql } = compiled.estimate?.explained ?? compiled.items
    throw new QueryFailure(name, { sql: `EXPLAIN ${sql}`, values: [], rows: 0, milliseconds: 0 }, error)
  }
}

const edgeOf = (order: QueryMeaning['order'], raw: RawRow): CursorValues =>
  order.map((_, index) => raw[cursorColumn(index)] as string | null)

function toRow(raw: RawRow, columns: readonly OutputColumn[], isComment = false): Row {
  const row: Row = {}
  for (const { key, relation, field, type } of columns) {
    const value = read(raw[key], type)
    if (relation === undefined) row[field] = value
    else if (raw[`${relation}_id`] === null) row[relation] = null
    else ((row[relation] ??= {}) as Row)[field] = value
  }
  if (isComment && typeof row['text'] === 'string') row['html'] = commentHtml(row['text'])
  return row
}

/** Replaces a related row of which every field is null by null. */
function withoutEmptyRelations(row: Row): void {
  for (const [name, value] of Object.entries(row))
    if (typeof value === 'object' && value !== null && Object.values(value).every((one) => one === null))
      row[name] = null
}

function read(value: unknown, type: OutputColumn['type']): unknown {
  if (type === 'count') return Number(value)
  if (type === 'extract') return extractHtml(typeof value === 'string' ? value : '')
  return type === 'safe-html' && typeof value === 'string' ? new SafeHtml(value) : value
}
