/**
 * Runs readers' queries: again if a connection was cut, and on read replicas that have every change that this process knows.
 */
import { setImmediate, setTimeout } from 'node:timers/promises'
import { LRUCache } from 'lru-cache'
import pg, { type Pool } from 'pg'
import {
  CONNECTION_SETTINGS,
  CONNECTIONS,
  isOutage,
  QUERY_MARGIN,
  STATEMENT_TIMEOUT,
  type Queryable,
} from '../connection.ts'
import { ReadBatches } from './read-batches.ts'
import type { Statement } from './statement-batch.ts'

/** A place in PostgreSQL's write-ahead log, in bytes from its start. */
export type LogPlace = bigint

/** How often a query is run whose connection was cut. */
const ATTEMPTS = 3
/** How long to wait before a replica is asked again how far it is, in milliseconds: twice as long each time. */
const FIRST_LOOK = 5
const LONGEST_PAUSE = 1_000
/** The maximum time to connect to a replica, in milliseconds. The primary answers instead. */
const CONNECT_TIMEOUT = 1_000

/** Identifies a database: standbys have the system identifier of their primary. */
const DATABASE =
  "(SELECT system_identifier FROM pg_control_system()) || ' ' || current_database() AS database"
const REPLAYED = `SELECT pg_wal_lsn_diff(pg_last_wal_replay_lsn(), '0/0')::text AS place, ${DATABASE}`

/** Why a replica is not used, as a sentence for the log. */
export type ReportReplica = (replica: number, reason: string) => void

/** A standby server, which replays the write-ahead log of the primary. */
class Replica {
  readonly pool: Pool
  /** Returns the database of the primary. */
  readonly #database: () => Promise<string>
  readonly #report: (reason: string) => void
  #reported = ''
  /** The place that it has certainly replayed. */
  #place: LogPlace = -1n
  #looking: Promise<void> | undefined
  #isClosed = false

  constructor(url: string, database: () => Promise<string>, report: (reason: string) => void) {
    this.#database = database
    this.#report = report
    this.pool = new pg.Pool({
      ...CONNECTION_SETTINGS,
      connectionString: url,
      max: CONNECTIONS,
      statement_timeout: STATEMENT_TIMEOUT,
      query_timeout: STATEMENT_TIMEOUT + QUERY_MARGIN,
      connectionTimeoutMillis: CONNECT_TIMEOUT,
      allowExitOnIdle: true,
    })
    // The primary answers instead.
    this.pool.on('error', () => undefined)
  }

  has(place: LogPlace): boolean {
    return this.#place >= place
  }

  /** Asks it until it has replayed a place. @param latest returns the place, which may change in the meantime */
  lookUntil(latest: () => LogPlace): void {
    this.#looking ??= this.#look(latest).finally(() => (this.#looking = undefined))
  }

  /** Forgets its place: another server may answer at its address next. */
  failed(latest: () => LogPlace): void {
    this.#place = -1n
    this.lookUntil(latest)
  }

  async close(): Promise<void> {
    this.#isClosed = true
    await this.#looking
    await this.pool.end()
  }

  /** Reports a reason once, until the replica answers. */
  #say(reason: string): void {
    if (reason === this.#reported) return
    this.#reported = reason
    this.#report(reason)
  }

  async #look(latest: () => LogPlace): Promise<void> {
    for (let pause = FIRST_LOOK; !this.#isClosed; pause = Math.min(LONGEST_PAUSE, 2 * pause)) {
      try {
        const { rows } = await this.pool.query<{ place: string | null; database: string }>(REPLAYED)
        const [found] = rows
        if (typeof found?.place !== 'string') this.#say('The server is not a standby.')
        else if (found.database !== (await this.#database()))
          this.#say('It is a standby of another database.')
        else {
          this.#place = BigInt(found.place)
          this.#reported = ''
        }
      } catch (error) {
        this.#say(error instanceof Error ? error.message : String(error))
      }
      if (this.has(latest())) return
      await setTimeout(pause, undefined, { ref: false })
    }
  }
}

export class ReadPool implements Queryable {
  #database: Promise<string> | undefined
  readonly #primary: Pool
  readonly #replicas: Replica[]
  /** What a replica must have; undefined while that is unknown. */
  #needed: LogPlace | undefined
  #next = 0
  readonly #batches: ReadBatches | undefined

  /**
   * @param options.replicas addresses of standby servers of the primary
   * @param options.isBatching whether the statements of one moment are sent together
   */
  constructor(
    primary: Pool,
    {
      replicas = [],
      report = () => undefined,
      isBatching = true,
    }: { replicas?: readonly string[]; report?: ReportReplica; isBatching?: boolean } = {},
  ) {
    this.#primary = primary
    if (isBatching) this.#batches = new ReadBatches(() => this.#forBatch())
    this.#replicas = replicas.map(
      (url, index) =>
        new Replica(
          url,
          () => this.#ownDatabase(),
          (reason) => report(index + 1, reason),
        ),
    )
  }

  #ownDatabase(): Promise<string> {
    this.#database ??= this.#primary
      .query<{ database: string }>(`SELECT ${DATABASE}`)
      .then(({ rows }) => rows[0]?.database ?? '')
      .catch((error: unknown) => {
        this.#database = undefined
        throw error
      })
    return this.#database
  }

  /** Uses no replica until `need` is called: something has changed. */
  hold(): void {
    this.#needed = undefined
  }

  /** Uses the replicas that have everything up to a place, unless less is enough because nothing has changed. */
  need(place: LogPlace): void {
    if (this.#needed !== undefined) return
    this.#needed = place
    for (const replica of this.#replicas) if (!replica.has(place)) replica.lookUntil(this.#latest)
  }

  readonly #latest = (): LogPlace => this.#needed ?? 0n

  async close(): Promise<void> {
    await Promise.all(this.#replicas.map((one) => one.close()))
  }

  readonly query = (async (...words: Parameters<Pool['query']>) => {
    const [first] = words as unknown[]
    if (!isReading(first)) return await this.#primary.query(...words)
    if (this.#batches && isPrepared(first)) {
      const rows = await this.#batches.run(first)
      if (rows) return { rows, rowCount: rows.length }
    }
    const replica = this.#replica()
    if (replica)
      try {
        return await replica.pool.query(...words)
      } catch (error) {
        // It has had its time.
        if (codeOf(error) === STATEMENT_CANCELLED) throw error
        if (isOutage(error)) replica.failed(this.#latest)
        // A standby may also end a query in favour of the replay. The primary decides.
      }
    for (let attempt = 1; ; attempt++)
      try {
        return await this.#primary.query(...words)
      } catch (error) {
        if (attempt === ATTEMPTS || !isCut(error)) throw error
        // Connections that were cut at the same time are noticed now.
        await setImmediate()
      }
  }) as unknown as Pool['query']

  /** Returns the connections for a batch. */
  #forBatch(): ReturnType<ConstructorParameters<typeof ReadBatches>[0]> {
    const replica = this.#replica()
    if (!replica)
      return {
        pool: this.#primary,
        // A batch keeps the locks of its statements until it ends, so it can wait for a transaction that waits for it. A
        // statement that runs alone waits with no lock.
        judge: (error) => (isCut(error) || codeOf(error) === DEADLOCK ? 'run-again' : 'final'),
      }
    return {
      pool: replica.pool,
      judge: (error) => {
        if (codeOf(error) === STATEMENT_CANCELLED) return 'final'
        if (isOutage(error)) replica.failed(this.#latest)
        return 'run-again'
      },
    }
  }

  /** Returns one of the replicas that have what is needed, each in its turn. */
  #replica(): Replica | undefined {
    const needed = this.#needed
    if (needed === undefined) return undefined
    for (let index = 0; index < this.#replicas.length; index++) {
      const one = this.#replicas[this.#next++ % this.#replicas.length]
      if (one?.has(needed)) return one
    }
    return undefined
  }
}

/** Whether a statement is to be prepared, which pg does if it has a name. */
function isPrepared(query: unknown): query is Statement {
  const { name, values } = query as { name?: unknown; values?: unknown }
  return typeof name === 'string' && Array.isArray(values)
}

/** Whether statements only read, for those that ran last. */
const reading = new LRUCache<string, boolean>({ max: 1_000 })

/** Whether a statement certainly changes nothing, so that it can run more than once. */
function isReading(query: unknown): boolean {
  const text = typeof query === 'string' ? query : (query as { text?: unknown }).text
  if (typeof text !== 'string') return false
  let known = reading.get(text)
  if (known === undefined) {
    known =
      /^\s*(SELECT|WITH)\b/i.test(text) &&
      !/\b(INSERT|UPDATE|DELETE|MERGE|nextval|pg_advisory\w*)\b/i.test(text)
    reading.set(text, known)
  }
  return known
}

/** SQLSTATE of a statement that took too long. */
const STATEMENT_CANCELLED = '57014'

/** SQLSTATE of a statement that waits for one that waits for it. */
const DEADLOCK = '40P01'

const codeOf = (error: unknown): string =>
  error instanceof Error && 'code' in error ? String(error.code) : ''

/** SQLSTATE of connections that the server ends: class 08, and a session ended by an administrator or a crash. */
const CUT = /^(08\d{3}|57P01|57P02|57P05|ECONNRESET|EPIPE)$/

/** Whether a connection was cut on which a statement ran. Whether the database answers is not known. */
function isCut(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  return (
    CUT.test(codeOf(error)) ||
    (/connection (terminated|ended)|not queryable|connection error/i.test(error.message) &&
      !/timeout/i.test(error.message))
  )
}
