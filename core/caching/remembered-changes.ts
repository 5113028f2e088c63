/**
 * The changes that a process knows, by transaction, so that it can decide whether a copy that another process has made is
 * still right: no change that the copy may lack affects it.
 */
import type { Change } from './change.ts'
import { affected, type Dependence } from './dependence.ts'
import { groupsOf, sourceOf } from './groups.ts'
import { includes, readSnapshot, sees, type Snapshot } from './snapshot.ts'

/** How many changes are remembered. */
const MOST_REMEMBERED = 2_000
/** With more that a copy may lack, it is rendered again: comparing takes longer. */
const MOST_COMPARED = 200

interface Remembered {
  /** Made together, or read together. */
  transactions: readonly bigint[]
  changes: readonly Change[]
  /** Of changes from before the process followed: what is known of them. */
  sources: ReadonlySet<string>
  /** Whether it may affect anything. */
  isAnything: boolean
  /** By the clock that decides what is published. */
  now: Date
}

/** A change from before the process followed. */
export interface EarlierChange {
  transaction: string
  /** Of the rows; null if it may affect anything. */
  source: string | null
}

export class RememberedChanges {
  #all: Remembered[] = []
  #count = 0
  /** Every change that is not in this snapshot is remembered. */
  #base: Snapshot | undefined
  #latest: Snapshot | undefined

  /** Notes changes, in the step that drops the copies that depend on them. */
  add(
    transactions: readonly string[],
    changes: readonly Change[],
    { isAnything, now }: { isAnything: boolean; now: Date },
  ): void {
    this.#push({ transactions: transactions.map(BigInt), changes, sources: new Set(), isAnything, now })
  }

  /** Notes what a reading has seen, once all of it is added. */
  seen(snapshot: string): void {
    this.#latest = readSnapshot(snapshot)
    this.#base ??= this.#latest
    if (this.#count > MOST_REMEMBERED) this.#trim()
  }

  /**
   * Notes changes that were made before.
   * @param from every change of this transaction and later ones is among them, or is added later
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

  /** Nothing is known of what has changed in the meantime. */
  forget(): void {
    this.#all = []
    this.#count = 0
    this.#base = undefined
  }

  /**
   * Decides whether a copy is still right, as far as changes tell.
   * @param snapshot what was seen before the copy was made
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

  /** What is in the latest snapshot is forgotten. Copies from before it are no longer taken. */
  #trim(): void {
    const base = this.#latest
    this.#base = base
    if (!base) return this.forget()
    this.#all = this.#all.filter((one) => one.transactions.some((id) => !sees(base, id)))
    this.#count = this.#all.reduce((sum, one) => sum + one.changes.length + 1, 0)
  }
}
