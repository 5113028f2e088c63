/**
 * Purges a cache elsewhere when content changes, whoever has changed it. It is recorded among the processes that keep
 * copies, so a writer anywhere waits until the cache has confirmed the purge. While the cache does not confirm, it is not
 * recorded: then writers do not wait, pages are sent without leave to keep them, and purges are tried again.
 */
import { randomUUID } from 'node:crypto'
import { groupsChanged } from '../../core/caching/groups.ts'
import { LEASE_WAIT } from '../../core/caching/lease.ts'
import type { LogPort } from '../publish/ports.ts'
import { untilSeenByAll } from '../store/changes/copy-processes.ts'
import { Follower } from '../store/changes/follower.ts'
import { markTransaction, type LoggedChanges } from '../store/changes/read-log.ts'
import type { Queryable } from '../store/connection.ts'
import { sendPurge, type PurgeTarget } from './purge-calls.ts'

/** How long writers wait for a purge, in milliseconds: for the lease of a process that does not answer, and two calls. */
const PATIENCE = LEASE_WAIT + 2_500

/** With more groups at once, everything is dropped instead. */
const MOST_GROUPS_AT_ONCE = 1_000

export interface PurgerState {
  /** Whether everything that has changed is purged. */
  isCurrent: boolean
  /** Since when it is not. */
  behindSince: Date | null
  /** What the last call failed with. */
  error: string | null
  /** Confirmed calls since the start. */
  calls: number
  /** What the last of them dropped; null for everything. */
  lastGroups: readonly string[] | null
  lastAt: Date | null
}

export class EdgePurger {
  readonly #pool: Queryable
  readonly #target: PurgeTarget
  readonly #log: LogPort['log']
  readonly #id = randomUUID()
  readonly #follower: Follower
  /** What must be dropped. At the start, nothing is known of what changed before. */
  #pending: 'all' | Set<string> = 'all'
  /** Whether every process has seen what makes it necessary. */
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
      settle: { wait: PATIENCE, run: () => this.#deliver() },
      // Lifetimes of pages were computed with the former clock.
      clockChanged: () => (this.#pending = 'all'),
      failed: (error) => log.error({ error: String(error) }, 'changes cannot be followed for the edge cache'),
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

  /** Drops everything. @returns whether the cache has confirmed it */
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

  /** @returns whether nothing is left to drop */
  async #deliver(): Promise<boolean> {
    const pending = this.#pending
    if (pending !== 'all' && pending.size === 0) return true
    this.#state = { ...this.#state, isCurrent: false, behindSince: this.#state.behindSince ?? new Date() }
    try {
      // Until every process has seen the change, the cache could fetch the old page again.
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
      const message = error instanceof Error ? error.message : String(error)
      if (this.#state.error === null) this.#log.error({ error: message }, 'the edge cache cannot be purged')
      this.#state = { ...this.#state, error: message }
      return false
    }
  }
}
