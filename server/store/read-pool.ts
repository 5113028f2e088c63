/**
 * Runs the queries of readers. A connection that was cut is replaced without anybody noticing, and replicas answer as soon
 * as they have everything that this process has to show.
 */
import { setImmediate, setTimeout } from 'node:timers/promises'
import pg, { type Pool } from 'pg'
import {
  CONNECTION_SETTINGS,
  CONNECTIONS,
  QUERY_MARGIN,
  STATEMENT_TIMEOUT,
  type Queryable,
} from './connection.ts'

/** A place in PostgreSQL's write-ahead log, in bytes from its start. */
export type LogPlace = bigint

/** How often a query is run whose connection was cut. */
const ATTEMPTS = 3
/** How long to wait before a replica is asked again how far it is, in milliseconds: twice as long each time. */
const FIRST_LOOK = 5
const LONGEST_PAUSE = 1_000
/** The maximum time to connect to a replica, in milliseconds. The primary answers instead. */
const CONNECT_TIMEOUT = 1_000

const RECEIVED = "SELECT pg_wal_lsn_diff(pg_last_wal_replay_lsn(), '0/0')::text AS place"

/** A copy of the database on another server, which follows it. */
class Replica {
  readonly pool: Pool
  /** How far it certainly is. It never goes back. */
  #place: LogPlace = -1n
  #looking: Promise<void> | undefined
  #isClosed = false

  constructor(url: string) {
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

  /** Looks until it has a place. @param latest returns the place that is needed in the end */
  lookUntil(latest: () => LogPlace): void {
    this.#looking ??= this.#look(latest).finally(() => (this.#looking = undefined))
  }

  /** Forgets how far it is: it failed, and another server may take its place. */
  failed(latest: () => LogPlace): void {
    this.#place = -1n
    this.lookUntil(latest)
  }

  async close(): Promise<void> {
    this.#isClosed = true
    await this.#looking
    await this.pool.end()
  }

  async #look(latest: () => LogPlace): Promise<void> {
    for (let pause = FIRST_LOOK; !this.#isClosed; pause = Math.min(LONGEST_PAUSE, 2 * pause)) {
      const { place } =
        (await this.pool.query<{ place: string | null }>(RECEIVED).catch(() => undefined))?.rows[0] ?? {}
      // A server that is not a replica says nothing.
      if (typeof place === 'string') this.#place = BigInt(place)
      if (this.has(latest())) return
      await setTimeout(pause, undefined, { ref: false })
    }
  }
}

export class ReadPool implements Queryable {
  readonly #primary: Pool
  readonly #replicas: Replica[]
  /** What a replica must have; undefined while that is unknown. */
  #needed: LogPlace | undefined
  #next = 0

  /** @param replicas addresses of servers that follow the primary */
  constructor(primary: Pool, replicas: readonly string[] = []) {
    this.#primary = primary
    this.#replicas = replicas.map((url) => new Replica(url))
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
    if (!isReading(words[0])) return await this.#primary.query(...words)
    const replica = this.#replica()
    if (replica)
      try {
        return await replica.pool.query(...words)
      } catch {
        // Whatever it is, such as a row that the replica had to drop: the primary decides.
        replica.failed(this.#latest)
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

/** Whether a statement certainly changes nothing, so that it can run more than once. */
function isReading(query: unknown): boolean {
  const text = typeof query === 'string' ? query : (query as { text?: unknown }).text
  return (
    typeof text === 'string' &&
    /^\s*(SELECT|WITH)\b/i.test(text) &&
    !/\b(INSERT|UPDATE|DELETE|MERGE|nextval|pg_advisory\w*)\b/i.test(text)
  )
}

/** SQLSTATE of connections that the server ends: class 08, and a session ended by an administrator or a crash. */
const CUT = /^(08\d{3}|57P01|57P02|57P05|ECONNRESET|EPIPE)$/

/** Whether a connection was cut on which a statement ran. Whether the database answers is not known. */
function isCut(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  const code = 'code' in error ? String(error.code) : ''
  return (
    CUT.test(code) ||
    (/connection (terminated|ended)|not queryable|connection error/i.test(error.message) &&
      !/timeout/i.test(error.message))
  )
}
