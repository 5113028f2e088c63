/**
 * The indexes that a definition asks for, on the blog's own tables: made and taken away while readers read on
 * (CREATE INDEX CONCURRENTLY), one after the other, whenever the definition changes.
 */
import type { DataSource } from 'typeorm'
import { isSameIndex, type IndexKey, type OwnIndex } from '../../../core/queries/indexes.ts'
import { SOURCE, TABLE } from '../../../core/queries/sources.ts'
import { expressionOf, type Locale } from '../statements/clause-sql.ts'

/** Names of these indexes begin so: what else is in the database is nobody's business here. */
const PREFIX = 'own_'

const columnOf = (field: string) => field.replace(/[A-Z]/g, (one) => `_${one.toLowerCase()}`)

/** Name in the database; the keys are part of it, so that an index that was changed is another one. */
export function indexName({ name, on, keys }: OwnIndex, { timeZone }: Pick<Locale, 'timeZone'>): string {
  const zone = keys.some((one) => SOURCE[on].fields[one.field]?.partOf) ? timeZone : ''
  let hash = 5381
  for (const one of JSON.stringify([on, keys, zone]))
    hash = (hash * 33 + (one.codePointAt(0) ?? 0)) % 4_294_967_296
  return `${PREFIX}${name.replaceAll('-', '_')}_${hash.toString(36)}`
}

function keySql(
  { field, descending, nullsLast }: IndexKey,
  on: OwnIndex['on'],
  locale: Pick<Locale, 'timeZone'>,
) {
  const source = SOURCE[on].fields[field]
  const expression = source?.partOf
    ? `(${expressionOf(on, TABLE[on], field, locale).replace(
        `${TABLE[on]}.${source.partOf.time}`,
        columnOf(source.partOf.time),
      )})`
    : source
      ? columnOf(field)
      : `${columnOf(field)}_id`
  return `${expression}${descending ? ' DESC' : ''}${descending && nullsLast ? ' NULLS LAST' : ''}`
}

/** @param how readers read on while it is made `concurrently`; that takes longer, and no transaction may be open */
export function indexSql(
  index: OwnIndex,
  locale: Pick<Locale, 'timeZone'>,
  how: 'concurrently' | 'at once',
): string {
  const keys = index.keys.map((one) => keySql(one, index.on, locale)).join(', ')
  return `CREATE INDEX ${how === 'concurrently' ? 'CONCURRENTLY ' : ''}${indexName(index, locale)} ON ${TABLE[index.on]} (${keys})`
}

export interface OwnIndexState {
  index: OwnIndex
  state: 'waiting' | 'being-made' | 'ready' | 'failed'
  /** Why it failed. */
  problem: string | null
  /** Its size, once it is ready. */
  bytes: number | null
}

interface Existing {
  name: string
  isValid: boolean
  bytes: string
}

/** Longest time one index may take, in milliseconds. */
const LONGEST = 60 * 60_000
/** How long stopping waits for one that is being made, in milliseconds. */
const PATIENCE = 3_000

export class OwnIndexes {
  readonly #database: DataSource
  #wanted: readonly OwnIndex[] = []
  #locale: Pick<Locale, 'timeZone'> = { timeZone: 'UTC' }
  #states = new Map<string, OwnIndexState>()
  #running: Promise<void> = Promise.resolve()
  #isStopped = false

  constructor(database: DataSource) {
    this.#database = database
  }

  get states(): readonly OwnIndexState[] {
    return [...this.#states.values()]
  }

  /** True when the blog has such an index, ready to serve. */
  has(index: OwnIndex): boolean {
    return this.states.some((one) => one.state === 'ready' && isSameIndex(one.index, index))
  }

  /** From now on these are the ones; those before are taken away. @returns when the database is so */
  want(wanted: readonly OwnIndex[], locale: Pick<Locale, 'timeZone'>): Promise<void> {
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

  /** What is half-made then is taken away at the next start. */
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
        // One that broke off half-made serves nobody.
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
    this.#note(name, { state: 'being-made', problem: null })
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
    // Meanwhile it may not be wanted any more.
    if (known) this.#states.set(name, { ...known, ...change })
  }
}
