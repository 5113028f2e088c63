/** What a rendering is given: data that may still have to be loaded, and the services behind tags and filters. */
import type { Context } from 'liquidjs'
import type { FragmentSession } from '../caching/session.ts'
import { joinDependences, type Dependence } from '../caching/dependence.ts'
import type { BuildResult } from '../routing/addresses/build.ts'

/** Thrown when a template reads data that was not loaded; the caller loads it and renders again. */
export class DataNeeded extends Error {
  constructor(readonly names: readonly string[]) {
    super(`data needed: ${names.join(', ')}`)
  }
}

/** The innermost error: liquidjs wraps what is thrown inside, once for each place it passes. */
export function innermost(error: unknown): unknown {
  let inner = error
  while (
    typeof inner === 'object' &&
    inner !== null &&
    'originalError' in inner &&
    inner.originalError !== undefined
  )
    inner = inner.originalError
  return inner
}

/** A value a template may read, with what it depends on. */
export interface Loaded {
  value: unknown
  dependence: Dependence
}

/** The data of one rendering: names that exist, and those of them already loaded. */
export class RenderData {
  readonly #names: ReadonlySet<string>
  readonly #loaded = new Map<string, Loaded>()

  constructor(names: Iterable<string>) {
    this.#names = new Set(names)
  }

  provide(name: string, loaded: Loaded): void {
    this.#loaded.set(name, loaded)
  }

  has(name: string): boolean {
    return this.#names.has(name)
  }

  isLoaded(name: string): boolean {
    return this.#loaded.has(name)
  }

  get(name: string): Loaded {
    const loaded = this.#loaded.get(name)
    if (!loaded) throw new DataNeeded([name])
    return loaded
  }

  /** Asks for several at once, so that a kept part that must be made needs one more round at most. */
  require(names: Iterable<string>): void {
    const missing = [...names].filter((name) => this.#names.has(name) && !this.#loaded.has(name))
    if (missing.length > 0) throw new DataNeeded(missing)
  }

  /** Everything read so far, joined: for values whose origin is not known more exactly. */
  allLoaded(): Dependence {
    return joinDependences([...this.#loaded.values()].map((one) => one.dependence))
  }

  /** An object with a property for each name that loads, or asks for, its value when read. */
  asScope(names: Iterable<string>): object {
    const scope = Object.create(null) as object
    for (const name of names)
      Object.defineProperty(scope, name, { enumerable: true, get: () => this.get(name).value })
    return scope
  }
}

/** Told about partials and layouts as they are rendered; absent when nobody watches. */
export interface TemplateTrace {
  enter(name: string, from: { file: string; line: number }): void
  leave(): void
}

export interface RenderServices {
  data: RenderData
  fragments: FragmentSession
  now: Date
  url(route: string, parameters: Record<string, unknown>): BuildResult
  asset(name: string): string | undefined
  request: { path: string; query: string }
  trace?: TemplateTrace
}

const SERVICES: unique symbol = Symbol('services')

/** The globals object of a rendering: values every template and partial sees, and the services behind a symbol. */
export function withServices(globals: object, services: RenderServices): object {
  Object.defineProperty(globals, SERVICES, { value: services, enumerable: false })
  return globals
}

export function servicesOf(context: Context): RenderServices {
  return (context.globals as { [SERVICES]: RenderServices })[SERVICES]
}
