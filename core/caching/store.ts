/** The contract of a fragment store, and the store in this process. */
import { LRUCache } from 'lru-cache'
import { describeChange, type Change } from './change.ts'
import {
  affected,
  affectsRow,
  affectsSet,
  NOTHING,
  rowKey,
  type Dependence,
  type DependedSet,
} from './dependence.ts'

/** A part of the definition that a copy was rendered with, e.g. `query latest-posts` → the hash of its meaning. */
export type DefinitionParts = ReadonlyMap<string, string>

/** What a copy of a whole page has in addition to its text. */
export interface PageAnswer {
  /** Of HTTP. */
  status: number
  headers: Readonly<Record<string, string>>
  /** Identifies the text around the places. */
  tag: string
  /** When the copy was made, as an HTTP date. */
  modified: string
  /** The address that it answers: path and query string; null for the data of a page as JSON. */
  target: string | null
  /** How many requests it has answered. */
  uses: number
  /** What differs between readers, in the order of the page: one between each two parts of the text. */
  places: readonly string[]
  /** The post whose form the page has; null without one. */
  formOf: number | null
}

/** A copy of a fragment or of a whole page. Times are milliseconds of the caller's clock. */
export interface Copy {
  name: string
  /** The text; of a page, the parts around the places that differ between readers. */
  content: readonly string[]
  /** Absent for a fragment. */
  answer?: PageAnswer
  /** A change of this drops the copy. */
  dependence: Dependence
  /** What it shows in addition, and keeps showing after a change, because that is refreshed by age only. */
  aged: Dependence
  parts: DefinitionParts
  madeAt: number
  /** When its lifetime, or one of what it contains, ends. */
  agesAt: number
  /** Until when it is fresh: before `agesAt` if something changes as time passes. */
  expiresAt: number
  /** Until when it may still be used where its rule allows an old copy. */
  staleUntil: number
  /** When a text that it prints, such as an age, is wrong, if only its own age refreshes it; Infinity otherwise. */
  wrongAt: number
  /** Bytes of other forms of its content, such as compressed ones. */
  formBytes?: number
}

/** Returns the characters of a copy's text. */
export const lengthOf = ({ content }: Pick<Copy, 'content'>): number =>
  content.reduce((sum, one) => sum + one.length, 0)

/** A copy that was dropped, and why. */
export interface DroppedCopy {
  key: string
  name: string
  why: string
  /** Of a page: its address, and how many requests its copy has answered. */
  target?: string
  uses?: number
}

export interface FragmentStore {
  /** Returns a fresh copy. */
  get(key: string, now: number): Copy | undefined
  /** Returns a copy that is no longer fresh, but may still be used where its rule allows it. */
  getStale(key: string, now: number): Copy | undefined
  /** Returns a copy, fresh or not, without noting that it was used. */
  peek(key: string): Copy | undefined
  /** Notes that other forms of a copy's content have been made. @param bytes of them */
  grow(key: string, copy: Copy, bytes: number): void
  /** Drops one copy. @returns whether there was one */
  drop(key: string): boolean
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
  /** Returns the copies that would go on showing what was before the changes, because it is refreshed by age only. */
  outdated(changes: readonly Change[], now: Date): DroppedCopy[]
  /** Drops every copy that was rendered with another state of a part of the definition. */
  keepOnly(isCurrent: (part: string, state: string) => boolean): DroppedCopy[]
  /** Drops every copy. Renderings that have begun are not stored. */
  clear(why: string): DroppedCopy[]
  /** Grows with each change. */
  readonly generation: number
  entries(): Iterable<[string, Copy]>
  readonly bytes: number
}

function droppedCopy(key: string, copy: Copy | undefined, why: string): DroppedCopy {
  const { name = '', answer } = copy ?? {}
  return {
    key,
    name,
    why,
    ...(answer && answer.target !== null ? { target: answer.target, uses: answer.uses } : {}),
  }
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
      sizeCalculation: (copy, key) =>
        2 * (lengthOf(copy) + key.length) +
        COPY_BYTES +
        (copy.formBytes ?? 0) +
        [copy.dependence, copy.aged].reduce(
          (sum, { rows, sets }) => sum + DEPENDENCE_BYTES * (rows.size + sets.size),
          0,
        ),
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
    if (copy.staleUntil <= now) this.#copies.delete(key)
    return undefined
  }

  getStale(key: string, now: number): Copy | undefined {
    const copy = this.#copies.get(key)
    return copy !== undefined && copy.expiresAt <= now && copy.staleUntil > now ? copy : undefined
  }

  peek(key: string): Copy | undefined {
    return this.#copies.peek(key)
  }

  grow(key: string, copy: Copy, bytes: number): void {
    const known = this.#copies.peek(key)
    // Only if no other copy has taken its place. What was given out stays as it is.
    if (known?.madeAt !== copy.madeAt || known.answer !== copy.answer) return
    this.#copies.set(key, { ...known, formBytes: (known.formBytes ?? 0) + bytes })
    if (!this.#copies.has(key)) this.#forget(key, known)
  }

  drop(key: string): boolean {
    return this.#copies.delete(key)
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
        if (!found.has(key)) found.set(key, droppedCopy(key, this.#copies.peek(key), why))
    }
    return [...found.values()]
  }

  outdated(changes: readonly Change[], now: Date): DroppedCopy[] {
    const found: DroppedCopy[] = []
    for (const [key, copy] of this.#copies.entries()) {
      const { aged } = copy
      if (aged === NOTHING) continue
      const change = changes.find((one) => affected(one, aged, now) !== undefined)
      if (change) found.push(droppedCopy(key, copy, describeChange(change)))
    }
    return found
  }

  keepOnly(isCurrent: (part: string, state: string) => boolean): DroppedCopy[] {
    // A rendering that has begun with the former definition is not stored: it has the former state in its key.
    const dropped: DroppedCopy[] = []
    for (const [key, copy] of [...this.#copies.entries()]) {
      const { parts } = copy
      const outdated = [...parts].find(([part, state]) => !isCurrent(part, state))
      if (!outdated) continue
      dropped.push(droppedCopy(key, copy, `${outdated[0].replace(/@\w+$/, '')} changed`))
      this.#copies.delete(key)
    }
    return dropped
  }

  clear(why: string): DroppedCopy[] {
    const dropped = [...this.#copies.entries()].map(([key, copy]) => droppedCopy(key, copy, why))
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
