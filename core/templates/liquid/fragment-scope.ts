/**
 * What a fragment's body sees: its inputs, and nothing else of the page. Each input is a part of the key of its copies, so
 * a copy cannot contain what its key does not tell.
 */
import type { Context, Token } from 'liquidjs'
import { joinDependences, NOTHING, type Dependence } from '../../caching/dependence.ts'
import { keyedInput } from '../../caching/provenance.ts'
import { innermost } from '../failure.ts'
import type { FragmentInputs } from '../fragment-inputs.ts'
import type { FirstSteps } from '../names.ts'
import { DataNeeded } from '../scope.ts'
import { fixedKeys } from './direct.ts'
import { openContext } from './internals.ts'
import { servicesOf, withServices } from './services.ts'

/** An argument of a partial, which is evaluated when the partial reads it. */
interface Lazy {
  /** Where it is evaluated. */
  context: Context
  token: Token | undefined
}

const lazies = new WeakMap<object, Map<string, Lazy>>()

/** Notes how an argument of a partial is evaluated, so that it can be identified without being loaded. */
export function noteLazy(scope: object, name: string, lazy: Lazy): void {
  const known = lazies.get(scope)
  if (known) known.set(name, lazy)
  else lazies.set(scope, new Map([[name, lazy]]))
}

/** Names that are not part of a key: the body gets the time, which limits the lifetime of its copy. */
const CLOCK = 'now'
/** Variables of loops, whose values are computed by methods. */
const LOOPS = new Set(['forloop', 'tablerowloop'])

export class FragmentScope {
  readonly #context: Context
  readonly #inputs: FragmentInputs
  readonly #dependences: Dependence[] = []
  /** The data that the body reads. What it depends on is known once it is loaded. */
  readonly #data = new Set<string>()

  constructor(context: Context, inputs: FragmentInputs) {
    this.#context = context
    this.#inputs = inputs
  }

  /** Returns the parts of the key; undefined if an input cannot be identified. @throws DataNeeded */
  key(): string[] | undefined {
    const parts: string[] = []
    for (const [root, steps] of this.#inputs.roots) {
      if (root === CLOCK) continue
      const local = this.#isLocal(root) ? this.#localPart(root) : null
      const shared = this.#isShared(root) ? this.#sharedPart(root, steps) : null
      if (local === undefined || shared === undefined) return undefined
      if (local !== null) parts.push(`${root}=${local}`)
      if (shared !== null) parts.push(`${root}:=${shared}`)
    }
    return parts
  }

  /** Requires all inputs at once, so that a fragment needs at most one more rendering. @throws DataNeeded */
  requireData(): void {
    const missing = new Set<string>()
    for (const root of this.#inputs.roots.keys()) {
      try {
        if (this.#isLocal(root)) this.#local(root)
        else if (this.#isShared(root)) this.#shared(root)
      } catch (error) {
        const cause = innermost(error)
        if (!(cause instanceof DataNeeded)) throw error
        for (const name of cause.names) missing.add(name)
      }
    }
    if (missing.size > 0) throw new DataNeeded([...missing])
  }

  dependence(): Dependence {
    const { data } = servicesOf(this.#context)
    return joinDependences([
      NOTHING,
      ...this.#dependences,
      ...[...this.#data].map((name) => data.get(name).dependence),
    ])
  }

  /** Returns a context in which the body is rendered. */
  closed(): Context {
    const inner = this.#context.spawn()
    const scope = inner.bottom()
    const globals = {}
    for (const [root, steps] of this.#inputs.roots) {
      if (this.#isLocal(root)) define(scope, root, () => this.#local(root))
      if (this.#isShared(root)) define(globals, root, () => picked(this.#shared(root), steps))
    }
    inner.globals = withServices(globals, servicesOf(this.#context)) as typeof inner.globals
    return inner
  }

  /** True for a local of the template or partial, and for the data of the page. */
  #isLocal(root: string): boolean {
    const { scopes, environments } = openContext(this.#context)
    return root in environments || scopes.some((scope) => root in scope)
  }

  /** True for a value that partials see as well. */
  #isShared(root: string): boolean {
    return root in this.#context.globals
  }

  #local(root: string): unknown {
    const open = openContext(this.#context)
    return snapshot(root, open.readProperty(open.findScope(root), root))
  }

  #shared(root: string): unknown {
    return openContext(this.#context).readProperty(this.#context.globals, root)
  }

  #localPart(root: string): string | undefined {
    return this.#identified(this.#context, root, []) ?? this.#valuePart(this.#local(root))
  }

  #sharedPart(root: string, steps: FirstSteps): string | undefined {
    const { data } = servicesOf(this.#context)
    return data.has(root) ? this.#dataPart(root, []) : this.#valuePart(picked(this.#shared(root), steps))
  }

  #valuePart(value: unknown): string | undefined {
    const input = keyedInput(value, this.#inputs.named)
    if (input) this.#dependences.push(input.dependence)
    return input?.key
  }

  #dataPart(name: string, path: readonly (string | number)[]): string {
    const { data } = servicesOf(this.#context)
    const identity = data.identity(name, this.#inputs.named)
    this.#data.add(name)
    return [identity, ...path].join('.')
  }

  /** Identifies data, or an argument that leads to data, without loading it; undefined if it is another value. */
  #identified(context: Context, root: string, path: readonly (string | number)[]): string | undefined {
    const open = openContext(context)
    const scope = open.findScope(root)
    const { data } = servicesOf(context)
    if (scope === open.environments || scope === context.globals)
      return data.has(root) && root in scope ? this.#dataPart(root, path) : undefined
    const lazy = lazies.get(scope)?.get(root)
    const [first, ...rest] = (lazy?.token && fixedKeys(lazy.token)) ?? []
    return lazy && typeof first === 'string'
      ? this.#identified(lazy.context, first, [...rest, ...path])
      : undefined
  }
}

function define(scope: object, name: string, get: () => unknown): void {
  let value: { found: unknown } | undefined
  Object.defineProperty(scope, name, {
    enumerable: true,
    configurable: true,
    get: (): unknown => (value ??= { found: get() }).found,
    set: (found: unknown) => (value = { found }),
  })
}

/** Returns a value with only those properties that are read. */
function picked(value: unknown, steps: FirstSteps): unknown {
  if (steps === 'all' || typeof value !== 'object' || value === null) return value
  return Object.fromEntries([...steps].map((step) => [step, (value as Record<string, unknown>)[step]]))
}

/** Returns the variable of a loop as plain values: it counts on while the loop runs. */
function snapshot(root: string, value: unknown): unknown {
  if (!LOOPS.has(root) || typeof value !== 'object' || value === null) return value
  const plain: Record<string, unknown> = {}
  for (const name of Object.getOwnPropertyNames(Object.getPrototypeOf(value))) {
    const member = (value as Record<string, unknown>)[name]
    if (
      typeof member === 'function' &&
      member.length === 0 &&
      !['constructor', 'next', 'valueOf'].includes(name)
    )
      plain[name] = (member as () => unknown).call(value)
  }
  return { ...plain, length: (value as { length?: number }).length, name: (value as { name?: string }).name }
}
