/** A request's use of the fragment store: the copies that it takes, and those that it stores. */
import { joinDependences, type Dependence } from './dependence.ts'
import type { Copy, FragmentStore } from './store.ts'

export interface FragmentOutcome {
  name: string
  key: string
  /** `bypass`: the store was not used, because an author made the request. */
  outcome: 'hit' | 'miss' | 'bypass'
  /** False for a miss that was not stored because its data changed during rendering. */
  stored: boolean
  ageMilliseconds: number
  /** The remaining time and the declared lifetime. */
  remainingMilliseconds: number
  lifetimeMilliseconds: number
  tags: string[]
  bytes: number
  file: string
  line: number
}

interface Place {
  file: string
  line: number
}
interface Fresh {
  copy: Copy
  timed: boolean
}
interface Frame {
  parts: Dependence[]
  expiresAt: number
}

/** Builds a key. Parts are separated by spaces, which names cannot contain and which are escaped in values. */
const key = (version: string, name: string, vary: readonly string[]) =>
  `${version} ${name}${vary.map((value) => ` ${encodeURIComponent(value)}`).join('')}`

export class FragmentSession {
  readonly #store: FragmentStore | undefined
  readonly #version: string
  readonly #now: number
  readonly #begun: number
  readonly #fresh = new Map<string, Fresh>()
  readonly #frames: Frame[] = []
  #outcomes: FragmentOutcome[] = []

  /**
   * @param store undefined to bypass the store
   * @param version part of every key, so that versions never share copies
   * @param now in milliseconds of the store's clock
   */
  constructor(store: FragmentStore | undefined, version: string, now: number) {
    this.#store = store
    this.#version = version
    this.#now = now
    this.#begun = store?.generation ?? 0
  }

  /** Whether copies are taken and stored. If not, only a walk needs dependences. */
  get isKeeping(): boolean {
    return this.#store !== undefined
  }

  get outcomes(): readonly FragmentOutcome[] {
    return this.#outcomes
  }

  /** Restarts rendering because more data is needed. Fragments that are already rendered are reused. */
  restart(): void {
    this.#outcomes = []
    this.#frames.length = 0
  }

  /** Returns the stored text, or undefined if the body must be rendered. */
  take(name: string, vary: readonly string[], lifetime: number, place: Place): string | undefined {
    if (!this.#store) return undefined
    const fullKey = key(this.#version, name, vary)
    const fresh = this.#fresh.get(fullKey)
    const copy = fresh?.copy ?? this.#store.get(fullKey, this.#now)
    if (!copy) return undefined
    this.#note(name, fullKey, fresh ? 'miss' : 'hit', copy, lifetime, place)
    this.#passOn({ tags: copy.tags, timed: fresh?.timed ?? false }, copy.expiresAt)
    return copy.html
  }

  /** Call before rendering a body. Dependences of inner fragments are collected until `keep` or `abandon`. */
  open(): void {
    this.#frames.push({ parts: [], expiresAt: Infinity })
  }

  abandon(): void {
    this.#frames.pop()
  }

  /** Takes a rendered body, which `commit` stores. */
  keep(
    name: string,
    vary: readonly string[],
    lifetime: number,
    html: string,
    own: Dependence,
    place: Place,
  ): void {
    const frame = this.#frames.pop()
    const { tags, timed } = joinDependences([own, ...(frame?.parts ?? [])])
    const expiresAt = Math.min(this.#now + lifetime, frame?.expiresAt ?? Infinity)
    const copy: Copy = { name, html, tags, madeAt: this.#now, expiresAt }
    const fullKey = key(this.#version, name, vary)
    if (this.#store) this.#fresh.set(fullKey, { copy, timed })
    this.#note(name, fullKey, this.#store ? 'miss' : 'bypass', copy, lifetime, place)
    this.#passOn({ tags, timed }, expiresAt)
  }

  /** Whether a copy to store can change as time passes. Then `commit` needs to know when. */
  get needsDueTime(): boolean {
    return [...this.#fresh.values()].some((one) => one.timed)
  }

  /**
   * Stores what was rendered.
   * @param dueAt when the next scheduled post becomes due, which limits the lifetime of timed copies
   */
  commit(dueAt: number): void {
    for (const [fullKey, { copy, timed }] of this.#fresh) {
      const bounded = timed ? { ...copy, expiresAt: Math.min(copy.expiresAt, dueAt) } : copy
      const stored = this.#store?.set(fullKey, bounded, this.#begun) ?? false
      for (const outcome of this.#outcomes) {
        if (outcome.key !== fullKey) continue
        outcome.stored = stored
        outcome.remainingMilliseconds = bounded.expiresAt - this.#now
      }
    }
  }

  #passOn(dependence: Dependence, expiresAt: number): void {
    const outer = this.#frames.at(-1)
    if (!outer) return
    outer.parts.push(dependence)
    outer.expiresAt = Math.min(outer.expiresAt, expiresAt)
  }

  #note(
    name: string,
    fullKey: string,
    outcome: FragmentOutcome['outcome'],
    copy: Copy,
    lifetime: number,
    place: Place,
  ): void {
    this.#outcomes.push({
      name,
      key: fullKey,
      outcome,
      stored: outcome === 'hit',
      ageMilliseconds: this.#now - copy.madeAt,
      remainingMilliseconds: copy.expiresAt - this.#now,
      lifetimeMilliseconds: lifetime,
      tags: [...copy.tags],
      bytes: copy.html.length,
      ...place,
    })
  }
}
