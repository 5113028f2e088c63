/**
 * The unit of work: every write runs in one, as a single transaction that reports what it changed. Copies are purged
 * after the commit and before the caller gets the result.
 */
import { setTimeout } from 'node:timers/promises'
import type { PoolClient } from 'pg'
import type { DataSource, EntityManager } from 'typeorm'
import type { Change } from '../../core/caching/purge.ts'
import type { Failure, Outcome, Success } from '../../core/shapes/outcome.ts'
import type { Queryable } from './connection.ts'

/** The value of a committed write, with the keys of the copies that were purged. */
export type Written<T> = (Success<T> & { purged: string[] }) | Failure

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
  readonly #changes: Change[] = []
  readonly #afterCommit: (() => void)[] = []

  constructor(manager: EntityManager) {
    this.manager = manager
  }

  /** What was changed so far, without failed attempts. */
  get changes(): readonly Change[] {
    return this.#changes
  }

  /** Reports changes of rows. Copies that depend on them are purged after the commit. */
  changed(...changes: readonly Change[]): void {
    this.#changes.push(...changes)
  }

  /** Registers work for after the commit, such as activating a definition. */
  afterCommit(run: () => void): void {
    this.#afterCommit.push(run)
  }

  /** Runs what was registered, once the transaction is committed. */
  finish(): void {
    for (const run of this.#afterCommit) run()
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
        this.#changes.push(...part.#changes)
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

export class Store {
  readonly database: DataSource
  readonly #purge: (changes: readonly Change[]) => string[]

  /** @param purge drops the copies that depend on committed changes and returns their keys */
  constructor(database: DataSource, purge: (changes: readonly Change[]) => string[]) {
    this.database = database
    this.#purge = purge
  }

  /**
   * Runs a write as one transaction. If it fails, nothing has changed. The work may run more than once: when
   * PostgreSQL ends it in favour of another transaction, it runs again.
   */
  async write<T>(work: (unit: Unit) => Promise<Outcome<T>>, onViolation?: OnViolation): Promise<Written<T>> {
    const [outcome, unit] = await untilDecided(async () => {
      const fresh = new Unit(this.database.manager)
      return [await fresh.attempt(work, onViolation), fresh] as const
    })
    if (!outcome.ok) return outcome
    unit.finish()
    return { ...outcome, purged: this.#purge(unit.changes) }
  }

  /**
   * Runs a write, lets `look` query its result on the same connection, and rolls it back. Nobody else ever sees it.
   * Other writers of the same rows wait in the meantime.
   */
  rehearse<T, R>(
    work: (unit: Unit) => Promise<Outcome<T>>,
    look: (pool: Queryable, value: T) => Promise<R>,
  ): Promise<Outcome<R>> {
    return untilDecided(() => this.#rehearseOnce(work, look))
  }

  async #rehearseOnce<T, R>(
    work: (unit: Unit) => Promise<Outcome<T>>,
    look: (pool: Queryable, value: T) => Promise<R>,
  ): Promise<Outcome<R>> {
    const runner = this.database.createQueryRunner()
    try {
      const client = (await runner.connect()) as PoolClient
      await runner.startTransaction()
      const outcome = await work(new Unit(runner.manager))
      return outcome.ok ? { ok: true, value: await look(inTurn(client), outcome.value) } : outcome
    } finally {
      if (runner.isTransactionActive) await runner.rollbackTransaction()
      await runner.release()
    }
  }
}

/** Makes a single connection usable as a pool: concurrent queries run one after the other. */
function inTurn(client: PoolClient): Queryable {
  let last: Promise<unknown> = Promise.resolve()
  const query = (...words: Parameters<PoolClient['query']>) => {
    const next = last.then(() => client.query(...words))
    last = next.then(
      () => undefined,
      () => undefined,
    )
    return next
  }
  return { query: query as Queryable['query'] }
}

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
