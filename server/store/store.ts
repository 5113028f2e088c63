/**
 * The unit of work: every write runs in one, as a single transaction. What it changed is read from the change log, which
 * triggers write, so no write can forget to report a change. Copies are purged after the commit and before the caller
 * gets the result.
 */
import { setTimeout } from 'node:timers/promises'
import { LRUCache } from 'lru-cache'
import type { PoolClient } from 'pg'
import type { DataSource, EntityManager } from 'typeorm'
import type { DroppedCopy } from '../../core/caching/store.ts'
import type { Failure, Outcome, Success } from '../../core/shapes/outcome.ts'
import { markTransaction, ownChanges, type LoggedChanges } from './changes/read-log.ts'
import { inTurn, isOutage, type Queryable } from './connection.ts'
import { observeStatements, type ObserveWrite } from './statement-reports.ts'

/** The value of a committed write, with the copies that were dropped because of it. */
export type Written<T> =
  | (Success<T> & {
      purged: DroppedCopy[]
      /** The transaction, by which the write can be undone; null if it has changed nothing. */
      step: string | null
    })
  | Failure

/** Drops the copies that depend on committed changes. */
export type Purge = (changes: LoggedChanges) => DroppedCopy[]

/** Returns the failure for a violated constraint; undefined if the violation is a fault of the code. */
export type OnViolation = (constraint: string) => Failure | undefined

/** Carries a failure out of a transaction, which rolls it back. */
class Rollback extends Error {
  constructor(readonly failure: Failure) {
    super('rolled back')
  }
}

export class Unit {
  /** Reads and writes inside the transaction. */
  readonly manager: EntityManager
  readonly #afterCommit: (() => DroppedCopy[])[] = []

  constructor(manager: EntityManager) {
    this.manager = manager
  }

  /** Registers work for after the commit, such as activating a definition. It returns the copies that it drops. */
  afterCommit(run: () => DroppedCopy[]): void {
    this.#afterCommit.push(run)
  }

  /** Runs what was registered, once the transaction is committed. */
  finish(): DroppedCopy[] {
    return this.#afterCommit.flatMap((run) => run())
  }

  /**
   * Runs a part of the work, as a savepoint if a transaction is open and otherwise as a transaction. A failure, or an
   * error, undoes exactly that part.
   */
  async attempt<T>(
    work: (part: Unit) => Promise<Outcome<T>>,
    onViolation: OnViolation = () => undefined,
  ): Promise<Outcome<T>> {
    try {
      return await this.manager.transaction(async (manager) => {
        const part = new Unit(manager)
        const outcome = await work(part)
        if (!outcome.ok) throw new Rollback(outcome)
        this.#afterCommit.push(...part.#afterCommit)
        return outcome
      })
    } catch (error) {
      if (error instanceof Rollback) return error.failure
      const constraint = violatedConstraint(error)
      const failure = constraint === undefined ? undefined : onViolation(constraint)
      if (failure) return failure
      throw error
    }
  }
}

/** Writes, each a transaction of its own. */
export interface Writes {
  /** Reads outside of a write. */
  readonly manager: EntityManager
  write<T>(work: (unit: Unit) => Promise<Outcome<T>>, onViolation?: OnViolation): Promise<Written<T>>
  /** Returns the same writes, with each of their statements reported. */
  observed(observe: ObserveWrite): Writes
}

const observedWrites = (writes: Writes, observe: ObserveWrite): Writes => ({
  manager: writes.manager,
  observed: (observe) => observedWrites(writes, observe),
  write: (work, onViolation) =>
    writes.write(async (unit) => {
      const end = observeStatements(unit.manager, observe)
      try {
        return await work(unit)
      } finally {
        end()
      }
    }, onViolation),
})

export class Store implements Writes {
  readonly database: DataSource
  readonly #purge: Purge
  readonly #untilSeen: (transaction: string) => Promise<void>

  /** The latest transactions of this process. */
  readonly #own = new LRUCache<string, true>({ max: 10_000 })

  /**
   * @param purge drops the copies of this process, before a write is acknowledged
   * @param untilSeen waits until no other process can serve a copy from before a transaction
   */
  constructor(
    database: DataSource,
    purge: Purge,
    untilSeen: (transaction: string) => Promise<void> = () => Promise.resolve(),
  ) {
    this.database = database
    this.#purge = purge
    this.#untilSeen = untilSeen
  }

  get manager(): EntityManager {
    return this.database.manager
  }

  observed(observe: ObserveWrite): Writes {
    return observedWrites(this, observe)
  }

  /** Whether this process has made a change, and has purged what depends on it. */
  isOwn(transaction: string): boolean {
    return this.#own.has(transaction)
  }

  /**
   * Runs a write as one transaction. If it fails, nothing has changed. The work may run more than once: when
   * PostgreSQL ends it in favour of another transaction, it runs again.
   */
  async write<T>(work: (unit: Unit) => Promise<Outcome<T>>, onViolation?: OnViolation): Promise<Written<T>> {
    const { outcome, unit, changes, transaction } = await untilDecided(async () => {
      const unit = new Unit(this.database.manager)
      let changes: LoggedChanges | undefined
      let transaction: string | undefined
      try {
        const outcome = await unit.attempt(async (part) => {
          const done = await work(part)
          if (done.ok) {
            const client = await clientOf(part.manager)
            changes = await ownChanges(client)
            // Before the commit, since from then on the follower of the log can see them.
            if (changes.transaction !== null) this.#own.set(changes.transaction, true)
            // What is acknowledged may have been changed by another transaction, which nobody has waited for.
            transaction = changes.transaction ?? (await markTransaction(client))
          }
          return done
        }, onViolation)
        return { outcome, unit, changes, transaction }
      } catch (error) {
        if (changes && isOutage(error)) this.#forsake(changes)
        throw error
      }
    })
    if (!outcome.ok) return outcome
    const purged = changes ? this.#purge(changes) : []
    const finished = unit.finish()
    if (transaction !== undefined) await this.#untilSeen(transaction)
    return { ...outcome, purged: [...purged, ...finished], step: changes?.transaction ?? null }
  }

  /** Handles a commit whose answer was lost with the connection, so that it may have happened. */
  #forsake(changes: LoggedChanges): void {
    if (changes.transaction === null) return
    // If the follower has not met it yet, it applies it. If it has, it has skipped it.
    this.#own.delete(changes.transaction)
    this.#purge({ ...changes, isTruncated: true })
  }

  /**
   * Runs a write, lets `look` query its result on the same connection, and rolls it back. Nobody else ever sees it.
   * Other writers of the same rows wait in the meantime.
   */
  rehearse<T, R>(
    work: (unit: Unit) => Promise<Outcome<T>>,
    look: (pool: Queryable, value: T) => Promise<R>,
  ): Promise<Outcome<R>> {
    return untilDecided(async () => {
      let outcome: Outcome<T> | undefined
      const looked = await rolledBack(
        this.manager,
        () => [],
        async ({ pool, store }) => {
          outcome = await work(new Unit(store.manager))
          return outcome.ok ? await look(pool, outcome.value) : undefined
        },
      )
      return outcome?.ok === false ? outcome : { ok: true, value: looked as R }
    })
  }

  /**
   * Runs code whose writes and reads share one connection and one transaction, and rolls all of it back.
   * @param affected the copies that depend on a change; they are reported as dropped and are kept
   * @param manager of an open transaction, if the rehearsal is a part of it
   */
  rehearseWrites<R>(
    affected: Purge,
    run: (inside: Rehearsal) => Promise<R>,
    manager: EntityManager = this.manager,
  ): Promise<R> {
    const isNested = manager.queryRunner?.isTransactionActive === true
    const once = () => rolledBack(manager, affected, run)
    return isNested ? once() : untilDecided(once)
  }
}

/** What code in a transaction that is rolled back reads with and writes with. */
export interface Rehearsal {
  pool: Queryable
  store: Writes
}

/** Carries a result out of a transaction that is rolled back. */
class RolledBack extends Error {
  constructor(readonly value: unknown) {
    super('rolled back')
  }
}

async function rolledBack<R>(
  outer: EntityManager,
  affected: Purge,
  run: (inside: Rehearsal) => Promise<R>,
): Promise<R> {
  try {
    return await outer.transaction(async (manager) => {
      const client = await clientOf(manager)
      const write: Writes['write'] = async (work, onViolation) => {
        let purged: DroppedCopy[] = []
        const outcome = await new Unit(manager).attempt(async (part) => {
          const done = await work(part)
          if (done.ok) purged = affected(await ownChanges(client))
          return done
        }, onViolation)
        return outcome.ok ? { ...outcome, purged, step: null } : outcome
      }
      const store: Writes = { manager, write, observed: (observe) => observedWrites(store, observe) }
      throw new RolledBack(await run({ pool: inTurn(client as PoolClient), store }))
    })
  } catch (error) {
    if (error instanceof RolledBack) return error.value as R
    throw error
  }
}

/** Returns the connection of a transaction. */
const clientOf = async (manager: EntityManager): Promise<Queryable> =>
  (await manager.queryRunner?.connect()) as PoolClient

/** SQLSTATE of a violated constraint: foreign key, unique, check. */
const VIOLATIONS = new Set(['23503', '23505', '23514'])

/** Returns the name of the constraint that an error is about. */
function violatedConstraint(error: unknown): string | undefined {
  if (typeof error !== 'object' || error === null || !('code' in error) || !('constraint' in error))
    return undefined
  return VIOLATIONS.has(String(error.code)) ? String(error.constraint) : undefined
}

/** SQLSTATE of a transaction that PostgreSQL ended in favour of another one: serialization failure, deadlock. */
const ENDED_FOR_ANOTHER = new Set(['40001', '40P01'])

const ATTEMPTS = 8

/**
 * Runs a transaction again while PostgreSQL ends it in favour of another one. In a deadlock of two, the other one
 * commits, so every round brings one of them to its end.
 */
async function untilDecided<T>(transaction: () => Promise<T>): Promise<T> {
  for (let attempt = 1; ; attempt++)
    try {
      return await transaction()
    } catch (error) {
      const code = typeof error === 'object' && error !== null && 'code' in error ? String(error.code) : ''
      if (!ENDED_FOR_ANOTHER.has(code) || attempt === ATTEMPTS) throw error
      await setTimeout(Math.random() * 20 * attempt)
    }
}
