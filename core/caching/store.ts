/** The contract of a fragment store, and the store in this process. */
import { LRUCache } from 'lru-cache'
import { describeChange, type Change } from './change.ts'
import { affected, affectsRow, affectsSet, rowKey, type Dependence, type DependedSet } from './dependence.ts'

/** A part of the definition that a copy was rendered with, e.g. `query latest-posts` → the hash of its meaning. */
export type DefinitionParts = ReadonlyMap<string, string>

/** What a copy of a whole page has in addition to its text. */
export interface PageAnswer {
  headers: Readonly<Record<string, string>>
  /** The text around the places that differ between readers: one part more than there are places. */
  parts: readonly string[]
  /** Identifies the text around the places. */
  tag: string
  /** When the copy was made, as an HTTP date. */
  modified: string
}

/** A copy of a fragment or of a whole page. Times are milliseconds of the caller's clock. */
export interface Copy {
  name: string
  html: string
  /** Absent for a fragment. */
  answer?: PageAnswer
  dependence: Dependence
  parts: DefinitionParts
  madeAt: number
  expiresAt: number
}

/** A copy that was dropped, and why. */
export interface DroppedCopy {
  key: string
  name: string
  why: string
}

export interface FragmentStore {
  get(key: string, now: number): Copy | undefined
  /**
   * Stores a copy, unless a change since rendering began affects it.
   * @param begun the value of `generation` before the data was read
   * @returns whether it was stored
   */
  set(key: string, copy: Copy, begun: number): boolean
  /** Drops every copy that one of the changes affects. @param now by the clock that decides what is published */
  purge(changes: readonly Change[], now: Date): DroppedCopy[]
  /** Returns the copies that `purge` would drop. */
  affected(changes: readonly Change[], now: Date): DroppedCopy[]
  /** Drops every copy that was rendered with another state of a part of the definition. */
  keepOnly(isCurrent: (part: string, state: string) => boolean): DroppedCopy[]
  /** Drops every copy. Renderings that have begun are not stored. */
  clear(why: string): DroppedCopy[]
  /** Grows with each change. */
  readonly generation: number
  entries(): Iterable<[string, Copy]>
  readonly bytes: number
}

/** With more comparisons of a change with a set, everything is dropped instead: readers wait while a store is purged. */
const MOST_COMPARISONS = 50_000

/** The latest changes, against which copies are compared that were begun before them. */
const REMEMBERED_CHANGES = 2_000

/** Bytes of a copy beside its text and its key, and of each thing it depends on: estimates. */
const COPY_BYTES = 200
const DEPENDENCE_BYTES = 120

/** An in-process store that evicts the least recently used copies, limited in bytes (two per character). */
export class ProcessFragmentStore implements FragmentStore {
  readonly #copies: LRUCache<string, Copy>
  readonly #byRow = new Map<string, Set<string>>()
  readonly #bySet = new Map<string, { set: DependedSet; keys: Set<string> }>()
  #changes: { generation: number; change: Change; now: Date }[] = []
  /** Copies that were begun before this generation are not stored. */
  #floor = 0
  #generation = 0

  constructor(maximumBytes: number) {
    this.#copies = new LRUCache<string, Copy>({
      maxSize: maximumBytes,
      sizeCalculation: ({ html, dependence }, key) =>
        2 * (html.length + key.length) +
        COPY_BYTES +
        DEPENDENCE_BYTES * (dependence.rows.size + dependence.sets.size),
      dispose: (copy, key, reason) => {
        if (reason !== 'set') this.#forget(key, copy)
      },
    })
  }

  get generation(): number {
    return this.#generation
  }

  get bytes(): number {
    return this.#copies.calculatedSize
  }

  get(key: string, now: number): Copy | undefined {
    const copy = this.#copies.get(key)
    if (copy === undefined) return undefined
    if (copy.expiresAt > now) return copy
    this.#copies.delete(key)
    return undefined
  }

  set(key: string, copy: Copy, begun: number): boolean {
    if (begun < this.#floor) return false
    for (let index = this.#changes.length - 1; index >= 0; index--) {
      const one = this.#changes[index]
      if (!one || one.generation <= begun) break
      if (affected(one.change, copy.dependence, one.now) !== undefined) return false
    }
    const previous = this.#copies.peek(key)
    if (previous) this.#forget(key, previous)
    this.#copies.set(key, copy)
    if (!this.#copies.has(key)) return false
    for (const row of copy.dependence.rows.keys()) {
      const keys = this.#byRow.get(row)
      if (keys) keys.add(key)
      else this.#byRow.set(row, new Set([key]))
    }
    for (const [identity, set] of copy.dependence.sets) {
      const known = this.#bySet.get(identity)
      if (known) known.keys.add(key)
      else this.#bySet.set(identity, { set, keys: new Set([key]) })
    }
    return true
  }

  purge(changes: readonly Change[], now: Date): DroppedCopy[] {
    if (changes.length * this.#bySet.size > MOST_COMPARISONS)
      return this.clear(`${changes.length.toLocaleString('en-GB')} rows changed at once`)
    for (const change of changes) this.#changes.push({ generation: ++this.#generation, change, now })
    const dropped = this.affected(changes, now)
    for (const { key } of dropped) this.#copies.delete(key)
    if (this.#changes.length > REMEMBERED_CHANGES) {
      const older = this.#changes.splice(0, this.#changes.length - REMEMBERED_CHANGES)
      this.#floor = older.at(-1)?.generation ?? this.#floor
    }
    return dropped
  }

  affected(changes: readonly Change[], now: Date): DroppedCopy[] {
    const found = new Map<string, DroppedCopy>()
    for (const change of changes) {
      const why = describeChange(change)
      for (const key of this.#affectedKeys(change, now))
        if (!found.has(key)) found.set(key, { key, name: this.#copies.peek(key)?.name ?? '', why })
    }
    return [...found.values()]
  }

  keepOnly(isCurrent: (part: string, state: string) => boolean): DroppedCopy[] {
    // A rendering that has begun with the former definition is not stored: it has the former state in its key.
    const dropped: DroppedCopy[] = []
    for (const [key, { name, parts }] of [...this.#copies.entries()]) {
      const outdated = [...parts].find(([part, state]) => !isCurrent(part, state))
      if (!outdated) continue
      dropped.push({ key, name, why: `${outdated[0].replace(/@\w+$/, '')} changed` })
      this.#copies.delete(key)
    }
    return dropped
  }

  clear(why: string): DroppedCopy[] {
    const dropped = [...this.#copies.entries()].map(([key, { name }]) => ({ key, name, why }))
    this.#generation++
    this.#floor = this.#generation
    this.#changes = []
    this.#copies.clear()
    this.#byRow.clear()
    this.#bySet.clear()
    return dropped
  }

  entries(): Iterable<[string, Copy]> {
    return this.#copies.entries()
  }

  #affectedKeys(change: Change, now: Date): Set<string> {
    const keys = new Set<string>()
    const row = rowKey(change.source, change.id)
    for (const key of this.#byRow.get(row) ?? []) {
      const fields = this.#copies.peek(key)?.dependence.rows.get(row)
      if (fields && affectsRow(change, fields)) keys.add(key)
    }
    for (const { set, keys: depending } of this.#bySet.values())
      if (affectsSet(change, set, now)) for (const key of depending) keys.add(key)
    return keys
  }

  #forget(key: string, { dependence }: Copy): void {
    for (const row of dependence.rows.keys()) {
      const keys = this.#byRow.get(row)
      keys?.delete(key)
      if (keys?.size === 0) this.#byRow.delete(row)
    }
    for (const identity of dependence.sets.keys()) {
      const known = this.#bySet.get(identity)
      known?.keys.delete(key)
      if (known?.keys.size === 0) this.#bySet.delete(identity)
    }
  }
}
