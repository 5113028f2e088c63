/**
 * Follows the change log: notices what other processes and other programs change, when NOTIFY says so and at regular
 * intervals. Each reading that is applied and recorded renews the lease with which copies are used.
 */
import type { Client } from 'pg'
import { clocksDisagree, isLeaseValid, type Moment } from '../../../core/caching/lease.ts'
import { isAway } from '../connection.ts'
import { ScramClient } from '../scram-client.ts'
import { acknowledge, register, unregister } from './copy-processes.ts'
import { followedChanges, type Followed, type LoggedChanges } from './read-log.ts'

/** How often the log is read without a notification, in milliseconds. */
const HEARTBEAT = 300
/** After how long an attempt to read is given up, in milliseconds. */
const GIVEN_UP = 3_000
/** How long to wait before the next attempt to connect, in milliseconds. */
const RECONNECT = 500
/** With more changes at once, everything is dropped instead. */
const MOST_ENTRIES = 5_000

/** The state of the database at a reading. */
export type ReadState = Pick<Followed, 'place' | 'snapshot' | 'era'>

export interface FollowerOptions {
  url: string
  /** Identifies this process among those that keep copies. */
  id: string
  /** Whether this process has made, and already applied, the changes of a transaction. */
  isOwn(transaction: string): boolean
  /** Called with changes in the order in which they were made; null if there are too many to follow. */
  apply(changes: LoggedChanges | null): Promise<void>
  /** Called before a reading. @returns a function that is called after its changes were applied */
  reading(): (read: ReadState) => void
  /**
   * Called after each reading: makes the applied changes effective in an edge cache, for which writers wait up to `wait`
   * milliseconds. While it resolves to false, this process is not registered, so writers do not wait for it.
   */
  settle?: { wait: number; run(): Promise<boolean> }
  /** Called when the clock was set, or the process was suspended: times of copies may be wrong. */
  clockChanged(): void
  /** Called once when the log can no longer be read; again only after it could be read. */
  failed(error: unknown): void
}

export class Follower {
  readonly #options: FollowerOptions
  #client: Client | undefined
  #timer: NodeJS.Timeout | undefined
  readonly #id: string
  #isRegistered = false
  #isSettled: boolean
  #purgesEdge = false
  /** The moment from which the lease runs. */
  #leasedFrom: Moment | undefined
  /** The last moment at which the clocks were compared. */
  #compared = thisMoment()
  /** The oldest transaction that may still commit changes that were not read; null before the first answer. */
  #from: string | null = null
  /** Entries at or after `#from` that were read. */
  #seen = new Set<string>()
  #reading: Promise<void> | undefined
  #isStale = false
  #isStopped = false
  #isFailing = false
  #isAway = false

  constructor(options: FollowerOptions) {
    this.#options = options
    this.#id = options.id
    this.#isSettled = options.settle === undefined
  }

  /** Whether the edge cache was being purged at the last reading. */
  get purgesEdge(): boolean {
    return this.#purgesEdge
  }

  /** Whether this process holds a lease, so that it has seen every write that was acknowledged. */
  get isCurrent(): boolean {
    return isLeaseValid(this.#leasedFrom, thisMoment())
  }

  /** Whether no connection to the database could be made at the last attempt to read the log. */
  get isAway(): boolean {
    return this.#isAway
  }

  /** Starts following from now on. */
  async start(): Promise<void> {
    await this.#read()
    this.#schedule(HEARTBEAT)
  }

  async stop(): Promise<void> {
    this.#isStopped = true
    clearTimeout(this.#timer)
    await this.#reading?.catch(() => undefined)
    this.#leasedFrom = undefined
    // Writers no longer wait for it.
    if (this.#client) await unregister(this.#client, this.#id).catch(() => undefined)
    await this.#client?.end().catch(() => undefined)
  }

  /** Reads the log now, over a new connection if need be. It returns once everything that was committed before is applied. */
  async catchUp(): Promise<void> {
    await this.#reading
    await this.#read()
  }

  #schedule(wait: number): void {
    if (this.#isStopped) return
    clearTimeout(this.#timer)
    this.#timer = setTimeout(() => void this.#tick(), wait)
    this.#timer.unref()
  }

  async #tick(): Promise<void> {
    try {
      await this.#read()
      this.#schedule(HEARTBEAT)
    } catch {
      this.#schedule(RECONNECT)
    }
  }

  async #connect(): Promise<Client> {
    const client = new ScramClient({
      connectionString: this.#options.url,
      application_name: 'esquina follower',
      connectionTimeoutMillis: GIVEN_UP,
      query_timeout: GIVEN_UP,
    })
    client.on('error', () => this.#disconnect(client))
    client.on('notification', () => {
      this.#isStale = true
      this.#schedule(0)
    })
    try {
      await client.connect()
      await client.query('LISTEN esquina_change')
    } catch (error) {
      this.#disconnect(client)
      throw error
    }
    this.#client = client
    return client
  }

  /** @param lost the connection that failed; another one may have taken its place */
  #disconnect(lost = this.#client): void {
    if (lost === this.#client) this.#client = undefined
    lost?.removeAllListeners('notification')
    void lost?.end().catch(() => undefined)
  }

  /** Readings follow one another, since each begins where the one before has ended. */
  #read(): Promise<void> {
    if (this.#isStopped) return Promise.reject(new Error('The log is no longer followed.'))
    this.#reading ??= this.#readNoted().finally(() => (this.#reading = undefined))
    return this.#reading
  }

  async #readNoted(): Promise<void> {
    try {
      await this.#readOnce()
      this.#isFailing = false
      this.#isAway = false
    } catch (error) {
      if (!this.#isFailing) this.#options.failed(error)
      this.#isFailing = true
      this.#isAway = isAway(error)
      this.#disconnect()
      throw error
    }
  }

  async #readOnce(): Promise<void> {
    const client = this.#client ?? (await this.#connect())
    do {
      this.#isStale = false
      if (!this.#isRegistered && this.#isSettled) {
        await register(client, this.#id, this.#options.settle?.wait)
        this.#isRegistered = true
      }
      const began = this.#compareClocks()
      const applied = this.#options.reading()
      const { from, snapshot, place, entries, changes, purgesEdge, era } = await followedChanges(
        async (sql, values) => (await client.query<object>(sql, [...values])).rows,
        {
          from: this.#from,
          isKnown: (one) => this.#seen.has(one),
          isOwn: this.#options.isOwn,
          most: MOST_ENTRIES,
        },
      )
      // A database whose transactions start over is another one: it was restored, or replaced.
      const isOther = this.#from !== null && BigInt(from) < BigInt(this.#from)
      if (this.#from !== null) {
        if (isOther || changes === null) await this.#options.apply(null)
        else if (changes.rows.length + changes.documents.length > 0 || changes.isTruncated)
          await this.#options.apply(changes)
      }
      // Only now, so that changes are read again if they could not be applied.
      this.#seen = new Set(entries)
      this.#from = from
      this.#purgesEdge = purgesEdge
      applied({ place, snapshot, era })
      this.#isSettled = (await this.#options.settle?.run()) ?? true
      if (this.#isSettled) {
        this.#isRegistered &&= await acknowledge(client, this.#id, snapshot)
        if (this.#isRegistered) this.#leasedFrom = began
        else this.#isStale = true
      } else if (this.#isRegistered) {
        await unregister(client, this.#id)
        this.#isRegistered = false
      }
    } while (this.#isStale)
  }

  /** Notices that the clock was set, or that the process was suspended. @returns this moment */
  #compareClocks(): Moment {
    const now = thisMoment()
    if (clocksDisagree(this.#compared, now)) {
      this.#leasedFrom = undefined
      this.#options.clockChanged()
    }
    this.#compared = now
    return now
  }
}

const thisMoment = (): Moment => ({ steady: performance.now(), day: Date.now() })
