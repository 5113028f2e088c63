/** The state of a rendering: the text so far, the values of names, and the work done. */
import { Context, type Liquid } from 'liquidjs'
import { WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import type { RenderServices } from '../scope.ts'
import type { Located, NameValue, RenderRecorder } from '../recorder.ts'
import { Meter } from './limits.ts'
import type { Names } from './names.ts'
import { LoopState, type BlockValue } from './values.ts'

/** Longest page in characters. */
const PAGE_LIMIT = 10_000_000

/** Evaluates an expression. */
export type Read = (rendering: Rendering, frame: Frame) => unknown
/** Renders a node. */
export type Write = (rendering: Rendering, frame: Frame) => void

/** The jump that `break` or `continue` has requested. */
export type Jump = 'none' | 'break' | 'continue'

export class Rendering {
  out = ''
  jump: Jump = 'none'
  /** The node that is being rendered. */
  at: Located
  readonly services: RenderServices
  readonly liquid: Liquid
  readonly recorder: RenderRecorder | undefined
  readonly #meter: Meter
  #context: Context | undefined

  constructor(services: RenderServices, liquid: Liquid, at: Located) {
    this.services = services
    this.liquid = liquid
    this.at = at
    this.recorder = services.tracer.recorder
    this.#meter = new Meter(services.processorTime)
  }

  /** Adds work. @throws if the rendering takes too long, or the page is too long */
  spend(units: number): void {
    this.#meter.spend(units)
    if (this.out.length > PAGE_LIMIT)
      throw new WordedError(TEMPLATE_PROBLEMS['template-page-too-long'](PAGE_LIMIT))
  }

  /** Renders to a text that does not become part of the page. */
  captured(write: Write, frame: Frame): string {
    const before = this.out
    this.out = ''
    this.recorder?.textBegun()
    write(this, frame)
    const text = this.out
    this.out = before
    this.recorder?.textEnded(text)
    return text
  }

  /** Prints a text that was captured. */
  print(text: string): void {
    this.recorder?.textPrinted(text, this.out.length)
    this.out += text
  }

  /** The context for filters of liquidjs: its options, and its memory limit. */
  get context(): Context {
    return (this.#context ??= new Context({}, this.liquid.options, { sync: true }, { liquid: this.liquid }))
  }
}

/** The value of a name that has none. */
const NONE: unique symbol = Symbol('none')

/** An argument of a partial, which is evaluated when it is read. */
export interface Lazy {
  read: Read
  /** Where it is evaluated. */
  frame: Frame
  /** The path that it is, if it is one without computed steps. */
  path: readonly [string, ...(string | number)[]] | undefined
}

class LazyValue {
  #value: unknown
  #isKnown = false
  constructor(readonly lazy: Lazy) {}
  value(rendering: Rendering): unknown {
    if (!this.#isKnown) {
      this.#value = this.lazy.read(rendering, this.lazy.frame)
      this.#isKnown = true
    }
    return this.#value
  }
}

/** Renders a block; `base` renders the content of the layout's own block. */
export type RenderBlock = (base: BlockValue) => void

/**
 * The values of names in a page with its layouts, or in a partial. A name is looked up among the variables of loops, blocks
 * and layouts first, then among assignments and arguments, then in the data of the page, then in the globals.
 */
export class Frame {
  readonly names: Names
  /** The names that all templates see. */
  readonly globals: object
  /** The data of the page; null in a partial. */
  readonly data: object | null
  /** Made when a name is bound: most partials bind none. */
  #bound: unknown[] | undefined
  readonly #own: unknown[]
  /** The counters of `increment` and `decrement`. */
  #counters: Map<string, number> | undefined
  /** How often each `cycle` has printed. */
  #cycles: Map<string, number> | undefined
  /** Where loops ended, for `offset: continue`. */
  #ends: Map<string, unknown> | undefined
  #blocks: Map<string, RenderBlock> | undefined
  /** Whether blocks are noted for the layout instead of being rendered. */
  isStoring = false

  constructor(names: Names, globals: object, data: object | null) {
    this.names = names
    this.globals = globals
    this.data = data
    this.#own = new Array<unknown>(names.size).fill(NONE)
  }

  /** Returns the value of a name; undefined if it has none. */
  get(slot: number, name: string, rendering: Rendering): unknown {
    const bound = this.#boundAt(slot)
    if (bound !== NONE) return bound
    const own = this.#ownAt(slot)
    if (own === NONE) return this.#outside(name)
    return own instanceof LazyValue ? own.value(rendering) : own
  }

  // A name can have been numbered after the frame was made. Then it has no value here.
  #boundAt(slot: number): unknown {
    return this.#bound !== undefined && slot < this.#bound.length ? this.#bound[slot] : NONE
  }

  #ownAt(slot: number): unknown {
    return slot < this.#own.length ? this.#own[slot] : NONE
  }

  #outside(name: string): unknown {
    const counter = this.#counters?.get(name)
    if (counter !== undefined) return counter
    const { data } = this
    if (data !== null && name in data) return (data as Record<string, unknown>)[name]
    return Object.hasOwn(this.globals, name) ? (this.globals as Record<string, unknown>)[name] : undefined
  }

  /** Binds a name until `release`. @returns the former binding */
  bind(slot: number, value: unknown): unknown {
    const bound = (this.#bound ??= new Array<unknown>(this.names.size).fill(NONE))
    const before = slot < bound.length ? bound[slot] : NONE
    bound[slot] = value
    return before
  }

  /** @param before the result of `bind` */
  release(slot: number, before: unknown): void {
    if (this.#bound) this.#bound[slot] = before
  }

  assign(slot: number, value: unknown): void {
    this.#own[slot] = value
  }

  /** Passes an argument. */
  give(slot: number, lazy: Lazy): void {
    this.#own[slot] = new LazyValue(lazy)
  }

  /** Returns the value of a name that was bound, assigned or passed and evaluated; undefined if that is not so. */
  known(slot: number): { value: unknown } | undefined {
    const bound = this.#boundAt(slot)
    if (bound !== NONE) return { value: bound }
    const own = this.#ownAt(slot)
    return own === NONE || own instanceof LazyValue ? undefined : { value: own }
  }

  /** Whether a name was bound, assigned or passed. */
  holds(name: string): boolean {
    const slot = this.names.find(name)
    return slot !== undefined && (this.#boundAt(slot) !== NONE || this.#ownAt(slot) !== NONE)
  }

  /** Whether a name is one of the page or partial, and not only one that all templates see. */
  isLocal(name: string): boolean {
    return this.holds(name) || this.isData(name)
  }

  /** Whether a name is data of the page or a counter, if nothing hides it. */
  isData(name: string): boolean {
    return this.#counters?.has(name) === true || (this.data !== null && name in this.data)
  }

  /** Returns the argument behind a name that is not evaluated where it is passed. */
  lazy(name: string): Lazy | undefined {
    const slot = this.names.find(name)
    if (slot === undefined || this.#boundAt(slot) !== NONE) return undefined
    const own = this.#ownAt(slot)
    return own instanceof LazyValue ? own.lazy : undefined
  }

  /** Returns the value of a name by which the frame knows it. */
  named(name: string, rendering: Rendering): unknown {
    const slot = this.names.find(name)
    return slot === undefined ? this.#outside(name) : this.get(slot, name, rendering)
  }

  /** Returns the values of all names. */
  all(rendering: Rendering): ReadonlyMap<string, NameValue> {
    const values = new Map<string, NameValue>()
    const names = new Set([
      ...[...this.names.list()].filter((name) => this.holds(name)),
      ...Object.keys(this.data ?? {}),
      ...Object.keys(this.globals),
    ])
    for (const name of names)
      try {
        const value = this.named(name, rendering)
        values.set(name, { value: value instanceof LoopState ? value.plain() : value })
      } catch (error) {
        values.set(name, { error })
      }
    return values
  }

  /** Adds to a counter. @returns its value before */
  count(name: string, by: number): number {
    const known = this.#counters?.get(name)
    const before = known ?? this.#startOf(name)
    ;(this.#counters ??= new Map()).set(name, before + by)
    return before
  }

  #startOf(name: string): number {
    const value =
      this.data !== null && name in this.data ? (this.data as Record<string, unknown>)[name] : undefined
    return typeof value === 'number' ? value : 0
  }

  /** Returns the index of the next value of a cycle. */
  turn(key: string, count: number): number {
    const cycles = (this.#cycles ??= new Map<string, number>())
    const turn = cycles.get(key) ?? 0
    cycles.set(key, (turn + 1) % count)
    return turn
  }

  /** Returns the page's content for a block of its layout. */
  blockOf(name: string): RenderBlock | undefined {
    return this.#blocks?.get(name)
  }

  noteBlock(name: string, render: RenderBlock): void {
    ;(this.#blocks ??= new Map<string, RenderBlock>()).set(name, render)
  }

  endOf(loop: string): unknown {
    return this.#ends?.get(loop)
  }

  noteEnd(loop: string, end: unknown): void {
    ;(this.#ends ??= new Map()).set(loop, end)
  }
}
