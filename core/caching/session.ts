/** A request's use of the fragment store: the copies that it takes, and those that it stores. */
import { joinDependences, type Dependence } from './dependence.ts'
import type { Copy, DefinitionParts, FragmentStore, PageAnswer } from './store.ts'

export interface FragmentOutcome {
  name: string
  key: string
  /** `bypass`: the store was not used, because an author made the request or the fragment cannot be kept. */
  outcome: 'hit' | 'miss' | 'bypass'
  /** False for a miss that was not stored because it was outdated before the page was finished. */
  stored: boolean
  ageMilliseconds: number
  /** The remaining time and the declared lifetime. */
  remainingMilliseconds: number
  lifetimeMilliseconds: number
  dependsOn: string[]
  bytes: number
  file: string
  line: number
}

/** A fragment that is being rendered. */
export interface FragmentRequest {
  name: string
  /** undefined if nothing identifies what its body reads: then no copy is taken or kept. */
  key: string | undefined
  /** In milliseconds. */
  lifetime: number
  file: string
  line: number
}

interface Fresh {
  copy: Copy
}
interface Frame {
  parts: Dependence[]
  definition: DefinitionParts[]
  expiresAt: number
  /** Whether a copy can be kept at all. */
  isKept: boolean
}

export class FragmentSession {
  readonly #store: FragmentStore | undefined
  readonly #now: number
  readonly #begun: number
  readonly #fresh = new Map<string, Fresh>()
  readonly #frames: Frame[] = []
  #outcomes: FragmentOutcome[] = []

  /**
   * @param store undefined to bypass the store
   * @param now in milliseconds of the store's clock
   */
  constructor(store: FragmentStore | undefined, now: number) {
    this.#store = store
    this.#now = now
    this.#begun = store?.generation ?? 0
  }

  /** Whether copies are taken and stored. If not, only a walk needs keys and dependences. */
  get isKeeping(): boolean {
    return this.#store !== undefined
  }

  /** When the request began, in milliseconds of the store's clock. */
  get now(): number {
    return this.#now
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
  take(request: FragmentRequest): string | undefined {
    const { key } = request
    if (!this.#store || key === undefined) return undefined
    const fresh = this.#fresh.get(key)
    const copy = fresh?.copy ?? this.#store.get(key, this.#now)
    if (!copy) return undefined
    this.#note(request, fresh ? 'miss' : 'hit', copy)
    this.#passOn(copy.dependence, copy.parts, copy.expiresAt, true)
    return copy.html
  }

  /** Call before rendering a body. Dependences of inner fragments are collected until `keep` or `abandon`. */
  open(): void {
    this.#frames.push({ parts: [], definition: [], expiresAt: Infinity, isKept: true })
  }

  abandon(): void {
    this.#frames.pop()
  }

  /** Whether the body of a fragment is being rendered. */
  get isRendering(): boolean {
    return this.#frames.length > 0
  }

  /** Limits the lifetime of the fragments that are being rendered. @param until in milliseconds of the store's clock */
  limit(until: number): void {
    for (const frame of this.#frames) frame.expiresAt = Math.min(frame.expiresAt, until)
  }

  /**
   * Takes a rendered page, which `commit` stores. It was opened like a fragment.
   * @param own what the page depends on beside its fragments
   */
  keepPage(
    { key, name, lifetime }: { key: string; name: string; lifetime: number },
    answer: PageAnswer,
    own: Dependence,
    definition: DefinitionParts,
  ): Copy {
    const frame = this.#frames.pop()
    const copy: Copy = {
      name,
      html: answer.parts.join(''),
      answer,
      dependence: joinDependences([own, ...(frame?.parts ?? [])]),
      parts: new Map([...definition, ...(frame?.definition ?? []).flatMap((one) => [...one])]),
      madeAt: this.#now,
      expiresAt: Math.min(this.#now + lifetime, frame?.expiresAt ?? Infinity),
    }
    this.#fresh.set(key, { copy })
    return copy
  }

  /** Takes a rendered body, which `commit` stores. */
  keep(request: FragmentRequest, html: string, own: Dependence, definition: DefinitionParts): void {
    const frame = this.#frames.pop()
    const { name, key, lifetime } = request
    const dependence = joinDependences([own, ...(frame?.parts ?? [])])
    const parts = new Map([...definition, ...(frame?.definition ?? []).flatMap((one) => [...one])])
    const expiresAt = Math.min(this.#now + lifetime, frame?.expiresAt ?? Infinity)
    const copy: Copy = { name, html, dependence, parts, madeAt: this.#now, expiresAt }
    const isKept = key !== undefined && (frame?.isKept ?? true) && this.#store !== undefined
    if (isKept) this.#fresh.set(key, { copy })
    this.#note(request, isKept ? 'miss' : 'bypass', copy)
    this.#passOn(dependence, parts, expiresAt, key !== undefined && (frame?.isKept ?? true))
  }

  /** Whether a copy to store can change as time passes. Then `commit` needs to know when. */
  get needsDueTime(): boolean {
    return [...this.#fresh.values()].some((one) => one.copy.dependence.timed)
  }

  /**
   * Stores what was rendered.
   * @param dueAt when the next scheduled post becomes due, which limits the lifetime of timed copies
   */
  commit(dueAt: number): void {
    for (const [key, { copy }] of this.#fresh) {
      const bounded = copy.dependence.timed ? { ...copy, expiresAt: Math.min(copy.expiresAt, dueAt) } : copy
      const isLiving = bounded.expiresAt > this.#now
      const stored = isLiving && (this.#store?.set(key, bounded, this.#begun) ?? false)
      for (const outcome of this.#outcomes) {
        if (outcome.key !== key) continue
        outcome.stored = stored
        outcome.remainingMilliseconds = bounded.expiresAt - this.#now
      }
    }
  }

  #passOn(dependence: Dependence, definition: DefinitionParts, expiresAt: number, isKept: boolean): void {
    const outer = this.#frames.at(-1)
    if (!outer) return
    outer.parts.push(dependence)
    outer.definition.push(definition)
    outer.expiresAt = Math.min(outer.expiresAt, expiresAt)
    outer.isKept &&= isKept
  }

  #note(
    { name, key = name, lifetime, file, line }: FragmentRequest,
    outcome: FragmentOutcome['outcome'],
    copy: Copy,
  ): void {
    this.#outcomes.push({
      name,
      key,
      outcome,
      stored: outcome === 'hit',
      ageMilliseconds: this.#now - copy.madeAt,
      remainingMilliseconds: copy.expiresAt - this.#now,
      lifetimeMilliseconds: lifetime,
      dependsOn: describeDependence(copy.dependence),
      bytes: copy.html.length,
      file,
      line,
    })
  }
}

/** Lists what a dependence consists of: sets first, then rows. */
export const describeDependence = ({ rows, sets }: Dependence): string[] => [
  ...[...sets.keys()].map((one) => one.replace(/#[\w-]+$/, '')).sort(),
  ...[...rows.keys()].sort(),
]
