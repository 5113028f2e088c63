/** Measures a query with generated posts: its pages by number and by cursor, with and without indexes that could help. */
import { cpus, totalmem } from 'node:os'
import type { DataSource } from 'typeorm'
import { pageCount } from '../../core/paging/numbered.ts'
import { fieldConditionsOf, parameterOf } from '../../core/queries/clauses.ts'
import { candidateIndexes, isSameIndex, writeIndexKey, type OwnIndex } from '../../core/queries/indexes.ts'
import { findField } from '../../core/queries/fields.ts'
import { clausesOf, isSearch, type QueryMeaning, type Take } from '../../core/queries/meaning.ts'
import { nodesOf, readPlan } from '../../core/queries/explaining/execution-plan.ts'
import { TABLE } from '../../core/queries/sources.ts'
import { edgeAt, runQuery, type PageAsked } from '../store/statements/run-query.ts'
import type { Locale } from '../store/statements/sql.ts'
import { compileQuery, type CompiledQuery } from '../store/statements/compile-query.ts'
import { poolOf } from '../store/connection.ts'
import { explain } from '../store/statements/explain.ts'
import { indexName, indexSql } from '../store/indexes/own-indexes.ts'
import { chooseStatement } from '../store/statements/choose-statement.ts'
import { boundValues } from '../store/statements/statement.ts'
import { wordOfRank } from './fill.ts'
import type { Measured, TriedIndex } from '../../contract/growth-result.ts'

/** Number of runs for a median, and the time in milliseconds after which there are fewer. */
const RUNS = 7
const LONG_ENOUGH = 4_000
/** With more rows than this, a query that takes all of them is not run, because it would measure memory. */
const ROWS_MOST = 100_000

/** Time limit for explaining a statement, in milliseconds. */
const PLAN_LONGEST = 120_000

export interface Subject {
  name: string
  meaning: QueryMeaning
  locale: Locale
  /** The blog's own indexes. */
  own: readonly OwnIndex[]
}

const candidatesOf = ({ meaning, own }: Subject): OwnIndex[] =>
  candidateIndexes(meaning).filter((one) => !own.some((other) => isSameIndex(one, other)))

/** Returns a value for each parameter: the most frequent one if rows share values, because it has the most pages. */
export function sampleParameters(meaning: QueryMeaning, size: number): Record<string, unknown> {
  const values: Record<string, unknown> = {}
  for (const { field, to } of fieldConditionsOf(clausesOf(meaning)))
    for (const one of Array.isArray(to) ? to : [to]) {
      const name = parameterOf(one)
      if (name !== undefined) values[name] ??= sampleValue(meaning, field, size)
    }
  return values
}

function sampleValue({ from }: QueryMeaning, field: string, size: number): unknown {
  const [relation, name = relation] = field.split('.')
  const related = field.includes('.') ? relation : from
  const found = findField(from, field)?.field
  switch (found?.partOf?.part) {
    case 'year':
      return new Date().getUTCFullYear() - 2
    case 'month':
      return 6
    case 'day':
      return 15
  }
  switch (found?.type) {
    case 'words':
      // A word of medium frequency: more frequent ones match everything, rarer ones nothing.
      return wordOfRank(12)
    case 'integer':
      return name === 'wordCount' ? 600 : Math.ceil(size / 2)
    case 'boolean':
      return true
    case 'time':
      return new Date(Date.now() - 3 * 365 * 86_400_000).toISOString()
  }
  const first: Record<string, string> = {
    category: 'c1',
    categories: 'c1',
    author: 'a1',
    authors: 'a1',
    tags: 't1',
  }
  const slug = related === undefined ? undefined : first[related]
  if (name === 'slug') return slug ?? `post-${Math.ceil(size / 2)}`
  return wordOfRank(30)
}

interface Way {
  by: Measured['by']
  meaning: QueryMeaning
  compiled: CompiledQuery
}

/** The kinds of pages that are compared: the declared one and the other one. */
function waysOf({ meaning, locale }: Subject, database: DataSource): Way[] {
  const compile = (by: Measured['by'], changed: QueryMeaning): Way => ({
    by,
    meaning: changed,
    compiled: compileQuery(database, changed, 'reader', locale),
  })
  const { take } = meaning
  if (take.kind !== 'pages') return [compile('whole', meaning)]
  const numbered: Take = take.by === 'number' ? take : { ...take, by: 'number', count: 'exact' }
  const cursor: Take =
    take.by === 'cursor' ? take : { ...take, by: 'cursor', pastTheEnd: 'empty', count: 'none' }
  return [compile('number', { ...meaning, take: numbered }), compile('cursor', { ...meaning, take: cursor })]
}

export interface SizeResult {
  total: number
  measured: Measured[]
  tried: TriedIndex[]
  serving: string[]
  readsAll: string[]
  notes: string[]
}

/**
 * Measures a query at the present size of a scratch database.
 * @param progress receives a description of each step
 */
export async function measureSize(
  database: DataSource,
  subject: Subject,
  size: number,
  signal: AbortSignal,
  progress: (what: string) => void,
): Promise<SizeResult> {
  const parameters = sampleParameters(subject.meaning, size)
  const total = await totalOf(database, subject, parameters)
  const notes: string[] = []
  const run = async (index: OwnIndex | null) => {
    const measured: Measured[] = []
    for (const way of waysOf(subject, database)) {
      if (way.by === 'whole' && way.meaning.take.kind === 'all' && total > ROWS_MOST) {
        notes.push(
          `at ${size.toLocaleString('en-GB')} posts it would give ${total.toLocaleString('en-GB')} rows: not run`,
        )
        continue
      }
      for (const [page, number] of pagesOf(way.meaning.take, total)) {
        signal.throwIfAborted()
        const asked = await askedOf(database, subject, way, parameters, number)
        const found = await medianRun(database, subject, way, parameters, asked, signal)
        measured.push({ size, index: index?.name ?? null, by: way.by, page, number, ...found })
      }
    }
    return measured
  }
  progress('with the current indexes')
  const plan = await planOf(database, subject, parameters)
  const measured = await run(null)
  const tried: TriedIndex[] = []
  for (const index of candidatesOf(subject)) {
    signal.throwIfAborted()
    progress(`with an index on ${index.keys.map(writeIndexKey).join(', ')}`)
    const name = indexName(index, subject.locale)
    await database.query(indexSql(index, subject.locale, 'blocking'))
    await database.query(`ANALYZE ${TABLE[index.on]}`)
    const { indexes } = await planOf(database, subject, parameters)
    const isUsed = indexes.includes(name)
    if (isUsed) measured.push(...(await run(index)))
    const [row] = await database.query<{ bytes: string }[]>(
      'SELECT pg_relation_size($1::regclass) AS bytes',
      [name],
    )
    tried.push({
      name: index.name,
      on: index.on,
      keys: index.keys.map(writeIndexKey),
      isUsed,
      bytes: Number(row?.bytes ?? 0),
    })
    await database.query(`DROP INDEX "${name}"`)
  }
  return {
    total,
    measured,
    tried,
    serving: plan.indexes,
    readsAll: plan.readsAll,
    notes: [...new Set(notes)],
  }
}

function pagesOf(take: Take, total: number): (readonly [Measured['page'], number | null])[] {
  if (take.kind !== 'pages') return [['first', null]]
  const last = pageCount(total, take.size)
  return last < 3
    ? [['first', 1]]
    : [
        ['first', 1],
        ['middle', Math.ceil(last / 2)],
        ['last', last],
      ]
}

async function askedOf(
  database: DataSource,
  { name }: Subject,
  { by, meaning, compiled }: Way,
  parameters: Record<string, unknown>,
  number: number | null,
): Promise<PageAsked | undefined> {
  if (by === 'whole' || number === null) return undefined
  if (by === 'number') return { number }
  if (number === 1 || meaning.take.kind !== 'pages') return { cursor: null }
  const place = (number - 1) * meaning.take.size - 1
  const values = await edgeAt(poolOf(database), { name, meaning, compiled, parameters }, place)
  return { cursor: values ? { toward: 'after', values } : null }
}

async function medianRun(
  database: DataSource,
  { name }: Subject,
  { meaning, compiled }: Way,
  parameters: Record<string, unknown>,
  page: PageAsked | undefined,
  signal: AbortSignal,
): Promise<Pick<Measured, 'milliseconds' | 'runs' | 'rows'>> {
  const request = { name, meaning, compiled, parameters, ...(page ? { page } : {}) }
  const once = async () => {
    const start = performance.now()
    const { rows } = await runQuery(poolOf(database), request)
    return { milliseconds: performance.now() - start, rows: rows.length }
  }
  // The first run fills caches and prepares statements. It only counts if it takes long.
  const first = await once()
  const times: number[] = []
  for (let spent = first.milliseconds; times.length < RUNS && spent < LONG_ENOUGH;) {
    signal.throwIfAborted()
    const { milliseconds } = await once()
    times.push(milliseconds)
    spent += milliseconds
  }
  if (times.length === 0) times.push(first.milliseconds)
  times.sort((a, b) => a - b)
  return { milliseconds: times[Math.floor(times.length / 2)] ?? 0, runs: times.length, rows: first.rows }
}

async function totalOf(
  database: DataSource,
  { meaning, locale }: Subject,
  parameters: Record<string, unknown>,
): Promise<number> {
  const counted: QueryMeaning = {
    ...meaning,
    relations: [],
    counts: [],
    countBy: [],
    order: [{ field: 'id', descending: false }],
    take: { kind: 'pages', by: 'number', size: 1, parameter: 'page', pastTheEnd: 'empty', count: 'exact' },
  }
  const { total } = compileQuery(database, counted, 'reader', locale)
  if (!total) return 0
  const [row] = await database.query<{ total: string }[]>(total.sql, boundValues(total, { parameters }))
  return Number(row?.total ?? 0)
}

/** Returns the indexes that the statement for the first page uses, and the tables that it scans. */
async function planOf(
  database: DataSource,
  { meaning, locale }: Subject,
  parameters: Record<string, unknown>,
): Promise<{ indexes: string[]; readsAll: string[] }> {
  const binding = { parameters, offset: 0 }
  const compiled = compileQuery(database, meaning, 'reader', locale)
  const asked = await chooseStatement(poolOf(database), compiled, binding)
  const { root } = readPlan(await explain(database, asked, binding, PLAN_LONGEST))
  const indexes = new Set<string>()
  const readsAll = new Set<string>()
  for (const { node } of nodesOf(root)) {
    if (node.index !== null) indexes.add(node.index)
    if (node.kind === 'Seq Scan' && node.table !== null && node.loops > 0) readsAll.add(node.table)
  }
  return { indexes: [...indexes], readsAll: [...readsAll] }
}

/** From this ratio on, a first page counts as faster. Smaller differences occur between runs, too. */
const BETTER = { ratio: 1.5, milliseconds: 0.3 }

/** The tried index with the fastest first page at the largest size, where it is clearly better than none. */
export function adviseIndex(
  meaning: QueryMeaning,
  tried: readonly TriedIndex[],
  measured: readonly Measured[],
): { name: string; size: number; before: number; after: number } | null {
  const { take } = meaning
  const by = take.kind === 'pages' ? take.by : 'whole'
  const size = Math.max(0, ...measured.map((one) => one.size))
  const firstOf = (index: string | null) =>
    measured.find((one) => one.size === size && one.index === index && one.by === by && one.page === 'first')
      ?.milliseconds
  const before = firstOf(null)
  if (before === undefined) return null
  const better = tried.flatMap(({ name, isUsed }) => {
    const after = firstOf(name)
    const isBetter =
      isUsed && after !== undefined && before >= after * BETTER.ratio && before - after >= BETTER.milliseconds
    return isBetter ? [{ name, size, before, after }] : []
  })
  return better.sort((a, b) => a.after - b.after)[0] ?? null
}

export const needsOf = ({ meaning }: Subject) => ({
  comments: meaning.from === 'comments' || meaning.counts.includes('commentCount'),
  words: isSearch(meaning) || meaning.conditions.some((one) => one.is === 'contains'),
})

/** Describes the machine, e.g. “2 × Some Processor, 24 GB, PostgreSQL 15.14”. */
export async function machineNote(database: DataSource): Promise<string> {
  const [row] = await database.query<{ server_version: string }[]>('SHOW server_version')
  const version = row?.server_version.split(' ')[0] ?? ''
  const processors = cpus()
  const model = processors[0]?.model.replace(/\s+/g, ' ').trim() ?? 'processor'
  return `${processors.length} × ${model}, ${Math.round(totalmem() / 2 ** 30)} GB, PostgreSQL ${version}`
}
