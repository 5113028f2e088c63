/**
 * Purges the edge cache after each change in the change log. The purger is registered like a process that keeps copies, so
 * every writer waits until a purge is confirmed. While purges fail, it is not registered: writers do not wait, responses
 * must not be stored at the edge, and the purges are retried.
 */
import { randomUUID } from 'node:crypto'
import { groupsChanged } from '../../core/caching/groups.ts'
import { PURGE_WAIT } from '../../core/caching/lease.ts'
import type { LogPort } from '../publish/ports.ts'
import { untilSeenByAll } from '../store/changes/copy-processes.ts'
import { Follower } from '../store/changes/follower.ts'
import { markTransaction, type LoggedChanges } from '../store/changes/read-log.ts'
import type { Queryable } from '../store/connection.ts'
import { sendPurge, type PurgeTarget } from './purge-calls.ts'

/** With more groups, everything is purged instead. */
const MOST_GROUPS_AT_ONCE = 1_000

export interface PurgerState {
  /** Whether all changes so far are purged. */
  isCurrent: boolean
  /** The time of the first change that is not purged. */
  behindSince: Date | null
  /** The error of the last request. */
  error: string | null
  /** Confirmed requests since the start. */
  calls: number
  /** The groups of the last one; null for everything. */
  lastGroups: readonly string[] | null
  lastAt: Date | null
}

export class EdgePurger {
  readonly #pool: Queryable
  readonly #target: PurgeTarget
  readonly #log: LogPort['log']
  readonly #id = randomUUID()
  readonly #follower: Follower
  /** What is to be purged. At the start everything, because changes may have been missed. */
  #pending: 'all' | Set<string> = 'all'
  /** Whether all processes have applied the changes that are to be purged. */
  #isSeen = false
  #state: PurgerState = {
    isCurrent: false,
    behindSince: new Date(),
    error: null,
    calls: 0,
    lastGroups: null,
    lastAt: null,
  }

  constructor({ pool, url, log }: { pool: Queryable; url: string } & LogPort, target: PurgeTarget) {
    this.#pool = pool
    this.#target = target
    this.#log = log
    this.#follower = new Follower({
      url,
      id: this.#id,
      isOwn: () => false,
      apply: (changes) => {
        this.#isSeen = false
        this.#add(changes)
        return Promise.resolve()
      },
      reading: () => () => undefined,
      settle: { wait: PURGE_WAIT, run: () => this.#deliver() },
      // Lifetimes were computed with the former clock.
      clockChanged: () => (this.#pending = 'all'),
      failed: (error) => log.error({ error: String(error) }, 'cannot follow changes for the edge cache'),
    })
  }

  get state(): PurgerState {
    return this.#state
  }

  /** @throws if the change log cannot be read */
  async start(): Promise<void> {
    await this.#follower.start()
  }

  async stop(): Promise<void> {
    await this.#follower.stop()
  }

  /** Purges everything. @returns whether the edge cache has confirmed it */
  async clear(): Promise<boolean> {
    this.#pending = 'all'
    this.#isSeen = false
    await this.#follower.catchUp()
    return this.#state.isCurrent
  }

  #add(changes: LoggedChanges | null): void {
    if (changes === null || changes.isTruncated || changes.documents.length > 0) this.#pending = 'all'
    if (this.#pending === 'all' || changes === null) return
    for (const change of changes.rows) for (const one of groupsChanged(change)) this.#pending.add(one)
    if (this.#pending.size > MOST_GROUPS_AT_ONCE) this.#pending = 'all'
  }

  /** Sends pending purges. @returns whether none is left */
  async #deliver(): Promise<boolean> {
    const pending = this.#pending
    if (pending !== 'all' && pending.size === 0) return true
    this.#state = { ...this.#state, isCurrent: false, behindSince: this.#state.behindSince ?? new Date() }
    try {
      // Before, the edge cache could fetch the stale page again.
      if (!this.#isSeen) await untilSeenByAll(this.#pool, this.#id, await markTransaction(this.#pool), false)
      this.#isSeen = true
      const groups = pending === 'all' ? null : [...pending].sort()
      await sendPurge(this.#target, groups === null ? { all: true } : { groups })
      if (this.#pending === pending) this.#pending = new Set()
      const { calls } = this.#state
      this.#state = {
        isCurrent: true,
        behindSince: null,
        error: null,
        calls: calls + 1,
        lastGroups: groups,
        lastAt: new Date(),
      }
      return true
    } catch (error) {
      const message = messageOf(error)
      if (this.#state.error === null) this.#log.error({ error: message }, 'cannot purge the edge cache')
      this.#state = { ...this.#state, error: message }
      return false
    }
  }
}

/** Returns the reason of an error. That of a failed request is in its cause. */
const messageOf = (error: unknown): string =>
  error instanceof Error
    ? error.cause instanceof Error
      ? error.cause.message
      : error.message
    : String(error)
