/**
 * The indexes that a definition adds to the blog's tables. They are created and dropped one after the other whenever the
 * definition changes, without blocking readers (CREATE INDEX CONCURRENTLY).
 */
import type { DataSource } from 'typeorm'
import { isSameIndex, type IndexKey, type OwnIndex } from '../../../core/queries/indexes.ts'
import { SOURCE, TABLE } from '../../../core/queries/sources.ts'
import { expressionOf } from '../../../core/queries/plan.ts'
import { expressionSql, type Locale } from '../statements/sql.ts'

/** Prefix of the names of these indexes. Other indexes are left alone. */
const PREFIX = 'own_'

type IndexLocale = Pick<Locale, 'timeZone'>

const columnOf = (field: string) => field.replace(/[A-Z]/g, (one) => `_${one.toLowerCase()}`)

/** Returns the name in the database. The keys are part of it, so a changed index has another name. */
export function indexName({ name, on, keys }: OwnIndex, { timeZone }: IndexLocale): string {
  const zone = keys.some((one) => SOURCE[on].fields[one.field]?.partOf) ? timeZone : ''
  let hash = 5381
  for (const one of JSON.stringify([on, keys, zone]))
    hash = (hash * 33 + (one.codePointAt(0) ?? 0)) % 4_294_967_296
  return `${PREFIX}${name.replaceAll('-', '_')}_${hash.toString(36)}`
}

function keySql({ field, descending, nullsLast }: IndexKey, on: OwnIndex['on'], locale: IndexLocale) {
  const source = SOURCE[on].fields[field]
  const expression = source?.partOf
    ? `(${timePartSql(on, field, locale)})`
    : source
      ? columnOf(field)
      : `${columnOf(field)}_id`
  return `${expression}${descending ? ' DESC' : ''}${descending && nullsLast ? ' NULLS LAST' : ''}`
}

/** Prints a part of a time as queries read it, but by the names of the table's columns. */
function timePartSql(on: OwnIndex['on'], field: string, { timeZone }: IndexLocale): string {
  const expression = expressionOf(on, field)
  if (expression.kind !== 'time-part') throw new Error(`“${field}” is not a part of a time`)
  return expressionSql(
    { ...expression, owner: TABLE[on], field: columnOf(expression.field) },
    { alias: TABLE[on], locale: { timeZone, searchConfiguration: 'simple' } },
  ).replace(`${TABLE[on]}.`, '')
}

/** @param how `concurrently` does not block readers, takes longer, and must not run in a transaction */
export function indexSql(index: OwnIndex, locale: IndexLocale, how: 'concurrently' | 'blocking'): string {
  const keys = index.keys.map((one) => keySql(one, index.on, locale)).join(', ')
  return `CREATE INDEX ${how === 'concurrently' ? 'CONCURRENTLY ' : ''}${indexName(index, locale)} ON ${TABLE[index.on]} (${keys})`
}

export interface OwnIndexState {
  index: OwnIndex
  state: 'waiting' | 'building' | 'ready' | 'failed'
  /** Why it failed. */
  problem: string | null
  /** Size on disk, once it is ready. */
  bytes: number | null
}

interface Existing {
  name: string
  isValid: boolean
  bytes: string
}

/** Time limit for one index in milliseconds. */
const LONGEST = 60 * 60_000
/** How long stopping waits for an index that is being created, in milliseconds. */
const PATIENCE = 3_000

export class OwnIndexes {
  readonly #database: DataSource
  #wanted: readonly OwnIndex[] = []
  #locale: IndexLocale = { timeZone: 'UTC' }
  #states = new Map<string, OwnIndexState>()
  #running: Promise<void> = Promise.resolve()
  #isStopped = false

  constructor(database: DataSource) {
    this.#database = database
  }

  get states(): readonly OwnIndexState[] {
    return [...this.#states.values()]
  }

  /** True if the blog has such an index, ready to use. */
  has(index: OwnIndex): boolean {
    return this.states.some((one) => one.state === 'ready' && isSameIndex(one.index, index))
  }

  /** Replaces the wanted indexes. Resolves when the database has them and no others. */
  want(wanted: readonly OwnIndex[], locale: IndexLocale): Promise<void> {
    this.#wanted = wanted
    this.#locale = locale
    const known = this.#states
    this.#states = new Map(
      wanted.map((index) => {
        const name = indexName(index, locale)
        return [name, known.get(name) ?? { index, state: 'waiting', problem: null, bytes: null }]
      }),
    )
    this.#running = this.#running.then(() => (this.#isStopped ? undefined : this.#apply()))
    return this.#running
  }

  /** Stops. An unfinished index is dropped at the next start. */
  async stop(): Promise<void> {
    this.#isStopped = true
    await Promise.race([this.#running, new Promise((done) => setTimeout(done, PATIENCE).unref())])
  }

  async #apply(): Promise<void> {
    const [wanted, locale] = [this.#wanted, this.#locale]
    const runner = this.#database.createQueryRunner()
    try {
      await runner.connect()
      await runner.query(`SET statement_timeout = ${LONGEST}`)
      const rows = (await runner.query(
        `SELECT class.relname AS name, index.indisvalid AS "isValid", pg_relation_size(class.oid) AS bytes
         FROM pg_index index JOIN pg_class class ON class.oid = index.indexrelid
         WHERE class.relnamespace = 'public'::regnamespace AND starts_with(class.relname, $1)`,
        [PREFIX],
      )) as Existing[]
      const existing = new Map(rows.map((one) => [one.name, one]))
      const names = new Set(wanted.map((one) => indexName(one, locale)))
      for (const { name, isValid } of existing.values())
        // An invalid index is the rest of a creation that was interrupted.
        if (!names.has(name) || !isValid) await runner.query(`DROP INDEX CONCURRENTLY IF EXISTS "${name}"`)
      for (const index of wanted) {
        const name = indexName(index, locale)
        if (existing.get(name)?.isValid === true) this.#note(name, { state: 'ready' })
        else await this.#make(runner, index, name)
        await this.#measure(runner, name)
      }
    } catch (error) {
      for (const [name, { state }] of this.#states) if (state !== 'ready') this.#fail(name, error)
    } finally {
      await runner.query('RESET statement_timeout').catch(() => undefined)
      await runner.release()
    }
  }

  async #make(
    runner: { query(sql: string): Promise<unknown> },
    index: OwnIndex,
    name: string,
  ): Promise<void> {
    this.#note(name, { state: 'building', problem: null })
    try {
      await runner.query(indexSql(index, this.#locale, 'concurrently'))
      await runner.query(`ANALYZE ${TABLE[index.on]}`)
      this.#note(name, { state: 'ready' })
    } catch (error) {
      await runner.query(`DROP INDEX CONCURRENTLY IF EXISTS "${name}"`)
      this.#fail(name, error)
    }
  }

  async #measure(
    runner: { query(sql: string, values: unknown[]): Promise<unknown> },
    name: string,
  ): Promise<void> {
    const [row] = (await runner.query('SELECT pg_relation_size(to_regclass($1)) AS bytes', [name])) as {
      bytes: string | null
    }[]
    this.#note(name, { bytes: typeof row?.bytes === 'string' ? Number(row.bytes) : null })
  }

  #fail(name: string, error: unknown): void {
    this.#note(name, { state: 'failed', problem: error instanceof Error ? error.message : String(error) })
  }

  #note(name: string, change: Partial<OwnIndexState>): void {
    const known = this.#states.get(name)
    // It may no longer be wanted.
    if (known) this.#states.set(name, { ...known, ...change })
  }
}
