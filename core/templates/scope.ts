/** What a rendering receives: data that may still have to be loaded, and the services behind tags and filters. */
import { joinDependences, type Dependence } from '../caching/dependence.ts'
import type { FragmentSession } from '../caching/session.ts'
import type { BuildResult } from '../routing/addresses/build.ts'
import type { TemplateTracer } from './tracer.ts'

/** Thrown when a template reads data that is not loaded. The caller loads it and renders again. */
export class DataNeeded extends Error {
  constructor(readonly names: readonly string[]) {
    super(`Data needed: ${names.join(', ')}`)
  }
}

/** A value that templates may read, with what it depends on. */
export interface Loaded {
  value: unknown
  dependence: Dependence
}

/** The data of one rendering: the names that exist, and the values loaded so far. */
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

  /** @throws DataNeeded if the value is not loaded */
  get(name: string): Loaded {
    const loaded = this.#loaded.get(name)
    if (!loaded) throw new DataNeeded([name])
    return loaded
  }

  /**
   * Requires several values at once, so that a fragment needs at most one more rendering.
   * @throws DataNeeded for those that are not loaded
   */
  require(names: Iterable<string>): void {
    const missing = [...names].filter((name) => this.#names.has(name) && !this.#loaded.has(name))
    if (missing.length > 0) throw new DataNeeded(missing)
  }

  /** Returns the dependences of everything loaded so far, for values whose origin is not known more exactly. */
  allLoaded(): Dependence {
    return joinDependences([...this.#loaded.values()].map((one) => one.dependence))
  }

  /** Returns an object with a getter for each name. */
  asScope(names: Iterable<string>): object {
    const scope = Object.create(null) as object
    for (const name of names)
      Object.defineProperty(scope, name, { enumerable: true, get: () => this.get(name).value })
    return scope
  }
}

export interface RenderServices {
  data: RenderData
  fragments: FragmentSession
  now: Date
  url(route: string, parameters: Record<string, unknown>): BuildResult
  asset(name: string): string | undefined
  /** The address of the page: its path as shown, and its query string. */
  request: { path: string; search: URLSearchParams }
  tracer: TemplateTracer
}
