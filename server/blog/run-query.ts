/** Runs compiled queries: binds values, turns raw rows into what templates see, and says what the result depends on. */
import type { Queryable } from '../database/connection.ts'
import { createHash } from 'node:crypto'
import { countTag, rowTag, sourceTag } from '../../core/caching/purge.ts'
import { dependenceOf, dependent, joinDependences, type Dependence } from '../../core/caching/dependence.ts'
import { escapeHtml, SafeHtml } from '../../core/content/safe-html.ts'
import type { SourceName } from '../../core/definition/schemas.ts'
import { extractHtml } from '../../core/queries/extract.ts'
import type { QueryMeaning } from '../../core/queries/meaning.ts'
import { SOURCE } from '../../core/queries/sources.ts'
import {
  boundValues,
  type Binding,
  type CompiledQuery,
  type OutputColumn,
  type Statement,
} from '../database/compile-query.ts'

export type Row = Record<string, unknown>
type RawRow = Record<string, unknown>

/** What a statement did: kept for the walk. */
export interface StatementRun {
  sql: string
  values: unknown[]
  rows: number
  milliseconds: number
}

export interface QueryResult {
  rows: Row[]
  /** All rows that match, where the query is paged. */
  total: number | undefined
  dependence: Dependence
  statements: StatementRun[]
}

/** A statement that failed, with what was being run. */
export class QueryFailure extends Error {
  constructor(
    readonly query: string,
    /** The statement as far as it ran. */
    readonly statement: StatementRun,
    override readonly cause: unknown,
  ) {
    super(cause instanceof Error ? cause.message : String(cause))
  }
}

const preparedNames = new WeakMap<Statement, string>()

/** The same SQL gets the same prepared statement on a connection, whatever query it comes from. */
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

export interface QueryRequest {
  /** Name of the query, for errors. */
  name: string
  meaning: QueryMeaning
  compiled: CompiledQuery
  parameters: Readonly<Record<string, unknown>>
  /** 1-based; of paged queries. */
  page?: number
}

export async function runQuery(pool: Queryable, request: QueryRequest): Promise<QueryResult> {
  const { meaning, compiled, parameters, name } = request
  const statements: StatementRun[] = []
  const offset = meaning.take.kind === 'pages' ? ((request.page ?? 1) - 1) * meaning.take.size : 0
  const [raw, totals] = await Promise.all([
    runStatement(pool, name, compiled.items, { parameters, offset }, statements),
    compiled.total ? runStatement(pool, name, compiled.total, { parameters }, statements) : undefined,
  ])
  const total = totals && Number(totals[0]?.['total'] ?? 0)
  const rows = raw.map((one) => toRow(one, compiled.columns))
  // They ran side by side; told in the order in which one reads them.
  statements.sort((a, b) => Number(a.sql === compiled.total?.sql) - Number(b.sql === compiled.total?.sql))
  for (const { relation, statement, columns } of compiled.many) {
    const ids = rows.map((row) => Number(row['id']))
    const links =
      ids.length === 0 ? [] : await runStatement(pool, name, statement, { parameters, ids }, statements)
    for (const row of rows) {
      row[relation] = links.filter((link) => link['owner'] === row['id']).map((link) => toRow(link, columns))
    }
  }
  for (const row of rows) dependent(row, rowDependence(meaning, row))
  return { rows, total, statements, dependence: resultDependence(meaning, rows) }
}

function toRow(raw: RawRow, columns: readonly OutputColumn[]): Row {
  const row: Row = {}
  for (const { key, relation, field, type } of columns) {
    const value = read(raw[key], type)
    if (relation === undefined) row[field] = value
    else if (raw[`${relation}_id`] === null) row[relation] = null
    else ((row[relation] ??= {}) as Row)[field] = value
  }
  if (typeof row['text'] === 'string' && 'createdAt' in row) row['html'] = commentHtml(row['text'])
  return row
}

function read(value: unknown, type: OutputColumn['type']): unknown {
  if (type === 'count') return Number(value)
  if (type === 'extract') return extractHtml(typeof value === 'string' ? value : '')
  return type === 'safe-html' && typeof value === 'string' ? new SafeHtml(value) : value
}

/** A comment is plain text: its paragraphs and line breaks are kept, nothing else is markup. */
function commentHtml(text: string): SafeHtml {
  const paragraphs = text
    .split(/\n{2,}/)
    .map((paragraph) => `<p>${escapeHtml(paragraph).replaceAll('\n', '<br>')}</p>`)
  return new SafeHtml(paragraphs.join('\n'))
}

/** A row depends on itself, on the related rows shown with it and on what is counted for it. */
function rowDependence(meaning: QueryMeaning, row: Row): Dependence {
  const id = Number(row['id'])
  const tags = new Set([rowTag(meaning.from, id)])
  let timed = false
  for (const name of meaning.relations) {
    const source = SOURCE[meaning.from].relations[name]?.source
    const related = row[name]
    for (const one of Array.isArray(related) ? (related as Row[]) : related ? [related as Row] : []) {
      if (source && source !== 'images') tags.add(rowTag(source, Number(one['id'])))
    }
  }
  for (const name of meaning.counts) {
    for (const source of SOURCE[meaning.from].counts[name]?.sources ?? []) {
      // Comments are counted for one post; posts for any category, and time alone may change that count.
      if (source === 'comments') tags.add(countTag(meaning.from, id, source))
      else {
        tags.add(sourceTag(source))
        timed = true
      }
    }
  }
  return { tags, timed }
}

/** A list depends on its rows and on the membership of its sources; a row found by a unique value, on itself. */
function resultDependence(meaning: QueryMeaning, rows: readonly Row[]): Dependence {
  const ofRows = joinDependences(rows.flatMap((row) => dependenceOf(row) ?? []))
  if (meaning.byUnique && rows.length > 0) return ofRows
  const membership = new Set(meaning.sources.map((source: SourceName) => sourceTag(source)))
  return joinDependences([ofRows, { tags: membership, timed: meaning.timed }])
}
