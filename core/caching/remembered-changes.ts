/**
 * Remembers the changes that a process has applied, with their transactions. A copy that another process has rendered is
 * still fresh if no change that it may lack affects it.
 */
import type { Change } from './change.ts'
import { affected, type Dependence } from './dependence.ts'
import { groupsOf, sourceOf } from './groups.ts'
import { includes, readSnapshot, sees, type Snapshot } from './snapshot.ts'

/** The number of changes that are remembered. */
const MOST_REMEMBERED = 2_000
/** If a copy may lack more changes, it is not compared with them, because rendering is faster. */
const MOST_COMPARED = 200

interface Remembered {
  /** The transactions of the changes, if they were read together. */
  transactions: readonly bigint[]
  changes: readonly Change[]
  /** The sources of changes from before the process followed the log. */
  sources: ReadonlySet<string>
  /** Whether every copy may be affected. */
  isAnything: boolean
  /** By the clock that decides what is published. */
  now: Date
}

/** A change from before the process followed the log. */
export interface EarlierChange {
  transaction: string
  /** The source of the changed row; null if every copy may be affected. */
  source: string | null
}

export class RememberedChanges {
  #all: Remembered[] = []
  #count = 0
  /** All changes that are not in this snapshot are remembered. */
  #base: Snapshot | undefined
  #latest: Snapshot | undefined

  /** Adds changes. Call it in the same step as the purge of this process's own copies. */
  add(
    transactions: readonly string[],
    changes: readonly Change[],
    { isAnything, now }: { isAnything: boolean; now: Date },
  ): void {
    this.#push({ transactions: transactions.map(BigInt), changes, sources: new Set(), isAnything, now })
  }

  /** Records the snapshot of a reading of the log after its changes were added. */
  seen(snapshot: string): void {
    this.#latest = readSnapshot(snapshot)
    this.#base ??= this.#latest
    if (this.#count > MOST_REMEMBERED) this.#trim()
  }

  /**
   * Adds changes from before the process followed the log.
   * @param from the oldest transaction: all changes from it on are among them, or are added later
   */
  addEarlier(from: string, earlier: readonly EarlierChange[]): void {
    for (const { transaction, source } of earlier)
      this.#push({
        transactions: [BigInt(transaction)],
        changes: [],
        sources: new Set(source === null ? [] : [source]),
        isAnything: source === null,
        now: new Date(0),
      })
    this.#base = { xmin: BigInt(from), xmax: BigInt(from), running: new Set() }
  }

  /** Call it after changes were missed. */
  forget(): void {
    this.#all = []
    this.#count = 0
    this.#base = undefined
  }

  /**
   * Decides whether no change that a copy may lack affects it.
   * @param snapshot of the database before the copy was rendered
   */
  isStillRight(dependence: Dependence, snapshot: string): boolean {
    const seen = readSnapshot(snapshot)
    if (!seen || !this.#base || !includes(seen, this.#base)) return false
    const missing = this.#all.filter((one) => one.transactions.some((id) => !sees(seen, id)))
    if (missing.length === 0) return true
    if (missing.reduce((sum, one) => sum + one.changes.length + 1, 0) > MOST_COMPARED) return false
    const sources = new Set(groupsOf(dependence).map(sourceOf))
    return !missing.some(
      (one) =>
        one.isAnything ||
        [...one.sources].some((source) => sources.has(source)) ||
        one.changes.some((change) => affected(change, dependence, one.now) !== undefined),
    )
  }

  #push(one: Remembered): void {
    this.#all.push(one)
    this.#count += one.changes.length + 1
  }

  /** Forgets the changes in the latest snapshot. Older copies are no longer fresh. */
  #trim(): void {
    const base = this.#latest
    this.#base = base
    if (!base) return this.forget()
    this.#all = this.#all.filter((one) => one.transactions.some((id) => !sees(base, id)))
    this.#count = this.#all.reduce((sum, one) => sum + one.changes.length + 1, 0)
  }
}
