/** The contract of a fragment store, and the store in this process. */
import { LRUCache } from 'lru-cache'

/** A copy of a fragment. Times are milliseconds of the caller's clock. */
export interface Copy {
  name: string
  html: string
  tags: ReadonlySet<string>
  madeAt: number
  expiresAt: number
}

export interface FragmentStore {
  get(key: string, now: number): Copy | undefined
  /**
   * Stores a copy, unless a tag that it depends on was purged after rendering began.
   * @param begun the value of `generation` before the data was read
   * @returns whether it was stored
   */
  set(key: string, copy: Copy, begun: number): boolean
  /** Deletes every copy that depends on one of the tags. @returns the keys of the deleted copies */
  purge(tags: Iterable<string>): string[]
  clear(): void
  /** Grows with each purge. */
  readonly generation: number
  entries(): Iterable<[string, Copy]>
  readonly bytes: number
}

/** For how many tags the generation of their last purge is kept. The oldest are merged into one floor. */
const REMEMBERED_PURGES = 10_000

/** An in-process store that evicts the least recently used copies, limited in bytes (two per character). */
export class ProcessFragmentStore implements FragmentStore {
  readonly #copies: LRUCache<string, Copy>
  readonly #keysByTag = new Map<string, Set<string>>()
  readonly #purgedAt = new Map<string, number>()
  #floor = 0
  #generation = 0

  constructor(maximumBytes: number) {
    this.#copies = new LRUCache<string, Copy>({
      maxSize: maximumBytes,
      sizeCalculation: (copy, key) => 2 * (copy.html.length + key.length) + 64,
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
    for (const tag of copy.tags) if ((this.#purgedAt.get(tag) ?? 0) > begun) return false
    const previous = this.#copies.peek(key)
    if (previous) this.#forget(key, previous)
    this.#copies.set(key, copy)
    if (!this.#copies.has(key)) return false
    for (const tag of copy.tags) {
      const keys = this.#keysByTag.get(tag)
      if (keys) keys.add(key)
      else this.#keysByTag.set(tag, new Set([key]))
    }
    return true
  }

  purge(tags: Iterable<string>): string[] {
    this.#generation++
    const dropped = new Set<string>()
    for (const tag of tags) {
      this.#purgedAt.delete(tag)
      this.#purgedAt.set(tag, this.#generation)
      for (const key of this.#keysByTag.get(tag) ?? []) dropped.add(key)
    }
    for (const key of dropped) this.#copies.delete(key)
    for (const [tag, generation] of this.#purgedAt) {
      if (this.#purgedAt.size <= REMEMBERED_PURGES) break
      this.#purgedAt.delete(tag)
      this.#floor = Math.max(this.#floor, generation)
    }
    return [...dropped]
  }

  clear(): void {
    this.#generation++
    this.#floor = this.#generation
    this.#copies.clear()
    this.#keysByTag.clear()
    this.#purgedAt.clear()
  }

  entries(): Iterable<[string, Copy]> {
    return this.#copies.entries()
  }

  #forget(key: string, copy: Copy): void {
    for (const tag of copy.tags) {
      const keys = this.#keysByTag.get(tag)
      keys?.delete(key)
      if (keys?.size === 0) this.#keysByTag.delete(tag)
    }
  }
}
