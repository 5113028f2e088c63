/** A request's use of the fragment store: the copies that it takes, and those that it stores. */
import { joinDependences, NOTHING, type Dependence } from './dependence.ts'
import { LONGEST_KEPT, type RuleInForce } from './rules.ts'
import type { Copy, DefinitionParts, FragmentStore, PageAnswer } from './store.ts'
import type { RefreshMode } from '../shapes/cache-rules.ts'

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
  /** How long rendering its body has taken; 0 if it was not rendered. */
  renderMilliseconds: number
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
  refresh: RefreshMode
  file: string
  line: number
}

interface Fresh {
  copy: Copy
}
interface Frame {
  parts: Dependence[]
  aged: Dependence[]
  definition: DefinitionParts[]
  /** When the first lifetime of an inner fragment ends. */
  agesAt: number
  /** When what is shown changes as time passes. */
  changesAt: number
  /** Whether a copy can be kept at all. */
  isKept: boolean
}

const NO_FRAME: Frame = {
  parts: [],
  aged: [],
  definition: [],
  agesAt: Infinity,
  changesAt: Infinity,
  isKept: true,
}

/** Returns a copy that is right until a time at most. */
const changingAt = (copy: Copy, at: number): Copy => ({
  ...copy,
  expiresAt: Math.min(copy.expiresAt, at),
  staleUntil: Math.min(copy.staleUntil, at),
})

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
   * @param begun the store's generation before anything was read
   */
  constructor(store: FragmentStore | undefined, now: number, begun = store?.generation ?? 0) {
    this.#store = store
    this.#now = now
    this.#begun = begun
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
    this.#passOn(copy, true)
    return copy.content[0]
  }

  /** Call before rendering a body. Dependences of inner fragments are collected until `keep` or `abandon`. */
  open(): void {
    this.#frames.push({ ...NO_FRAME, parts: [], aged: [], definition: [] })
  }

  abandon(): void {
    this.#frames.pop()
  }

  /** Whether the body of a fragment is being rendered. */
  get isRendering(): boolean {
    return this.#frames.length > 0
  }

  /** Notes that what is being rendered changes at a time. @param until in milliseconds of the store's clock */
  limit(until: number): void {
    for (const frame of this.#frames) frame.changesAt = Math.min(frame.changesAt, until)
  }

  /**
   * Takes a rendered page, which `commit` stores. It was opened like a fragment.
   * @param content the text around the places that differ between readers
   * @param own what the page depends on beside its fragments
   */
  keepPage(
    { key, name, rule }: { key: string; name: string; rule: RuleInForce },
    content: readonly string[],
    answer: PageAnswer,
    own: Dependence,
    definition: DefinitionParts,
  ): Copy {
    const frame = this.#frames.pop() ?? NO_FRAME
    const stale = Math.max(rule.staleWhileRevalidate, rule.staleIfError)
    const copy = { ...this.#copyOf({ name, content, own, definition }, frame, rule, stale), answer }
    this.#fresh.set(key, { copy })
    return copy
  }

  /** Does not store the page that was taken, for which any address could be made up. */
  dropPage(): void {
    for (const [key, { copy }] of this.#fresh) if (copy.answer) this.#fresh.delete(key)
  }

  /** Takes a rendered body, which `commit` stores. @param milliseconds that rendering it has taken */
  keep(
    request: FragmentRequest,
    html: string,
    own: Dependence,
    definition: DefinitionParts,
    milliseconds = 0,
  ): void {
    const frame = this.#frames.pop() ?? NO_FRAME
    const { name, key } = request
    const copy = this.#copyOf({ name, content: [html], own, definition }, frame, request)
    const isKept = key !== undefined && frame.isKept && this.#store !== undefined
    if (isKept) this.#fresh.set(key, { copy })
    this.#note(request, isKept ? 'miss' : 'bypass', copy, milliseconds)
    this.#passOn(copy, key !== undefined && frame.isKept)
  }

  /** @param stale how long after its lifetime a copy may still be used */
  #copyOf(
    one: { name: string; content: readonly string[]; own: Dependence; definition: DefinitionParts },
    frame: Frame,
    { refresh, lifetime }: { refresh: RefreshMode; lifetime: number },
    stale = 0,
  ): Copy {
    const isAged = refresh === 'by-age'
    const shown = joinDependences([one.own, ...frame.parts])
    const agesAt = Math.min(frame.agesAt, this.#now + (refresh === 'on-change' ? LONGEST_KEPT : lifetime))
    const changesAt = isAged ? Infinity : frame.changesAt
    const aged = isAged ? [shown, ...frame.aged] : frame.aged
    return {
      name: one.name,
      content: one.content,
      dependence: isAged ? NOTHING : shown,
      aged: aged.length === 0 ? NOTHING : joinDependences(aged),
      parts: new Map([...one.definition, ...frame.definition.flatMap((inner) => [...inner])]),
      madeAt: this.#now,
      agesAt,
      expiresAt: Math.min(agesAt, changesAt),
      staleUntil: Math.min(agesAt + stale, changesAt),
      wrongAt: isAged ? frame.changesAt : Infinity,
    }
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
      const bounded = copy.dependence.timed ? changingAt(copy, dueAt) : copy
      const isLiving = bounded.expiresAt > this.#now
      const stored = isLiving && (this.#store?.set(key, bounded, this.#begun) ?? false)
      for (const outcome of this.#outcomes) {
        if (outcome.key !== key) continue
        outcome.stored = stored
        outcome.remainingMilliseconds = bounded.expiresAt - this.#now
      }
    }
  }

  #passOn({ dependence, aged, parts, agesAt, expiresAt }: Copy, isKept: boolean): void {
    const outer = this.#frames.at(-1)
    if (!outer) return
    outer.parts.push(dependence)
    if (aged !== NOTHING) outer.aged.push(aged)
    outer.definition.push(parts)
    outer.agesAt = Math.min(outer.agesAt, agesAt)
    if (expiresAt < agesAt) outer.changesAt = Math.min(outer.changesAt, expiresAt)
    outer.isKept &&= isKept
  }

  #note(
    { name, key = name, lifetime, file, line }: FragmentRequest,
    outcome: FragmentOutcome['outcome'],
    copy: Copy,
    renderMilliseconds = 0,
  ): void {
    this.#outcomes.push({
      name,
      key,
      outcome,
      stored: outcome === 'hit',
      ageMilliseconds: this.#now - copy.madeAt,
      remainingMilliseconds: copy.expiresAt - this.#now,
      lifetimeMilliseconds: lifetime,
      // Only a walk looks at it.
      get dependsOn() {
        return describeDependence(copy.dependence)
      },
      bytes: copy.content[0]?.length ?? 0,
      renderMilliseconds,
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
