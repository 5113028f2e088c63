/** What a rendering receives: data that may still have to be loaded, and the services behind tags and filters. */
import { joinDependences, NOTHING, type Dependence } from '../caching/dependence.ts'
import type { NamedFields } from '../caching/provenance.ts'
import type { FragmentSession } from '../caching/session.ts'
import type { BuildResult } from '../routing/addresses/build.ts'
import type { RefreshMode } from '../shapes/cache-rules.ts'
import type { Surroundings } from '../content/structured-data.ts'
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

/**
 * Returns what identifies the data behind a name without loading it: the query, the values it binds, and the page.
 * @throws DataNeeded for data from which it takes values
 */
export type IdentifyData = (name: string, named: NamedFields) => string

/** The data of one rendering: the names that exist, and the values loaded so far. */
export class RenderData {
  readonly #names: ReadonlySet<string>
  readonly #loaded = new Map<string, Loaded>()
  readonly #identify: IdentifyData

  constructor(names: Iterable<string>, identify: IdentifyData) {
    this.#names = new Set(names)
    this.#identify = identify
  }

  /** Returns what identifies the data behind a name, as far as a template with some names can see it. */
  identity(name: string, named: NamedFields): string {
    return this.#identify(name, named)
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

  /** Returns what everything that was loaded depends on. */
  dependence(): Dependence {
    return joinDependences([NOTHING, ...[...this.#loaded.values()].map((one) => one.dependence)])
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

  /** Returns an object with a getter for each name. */
  asScope(names: Iterable<string>): object {
    const scope = Object.create(null) as object
    for (const name of names)
      Object.defineProperty(scope, name, { enumerable: true, get: () => this.get(name).value })
    return scope
  }
}

/** The states of the parts of a definition, e.g. `template partials/card` → a hash of its text. */
export interface DefinitionState {
  /** Returns undefined for a part that the definition does not have. */
  state(part: string): string | undefined
}

/** The part of a definition that a fragment is. Two fragments with one name and different bodies are two parts. */
export const fragmentPart = (name: string, bodyHash: string) => `fragment ${name}@${bodyHash}`

export interface RenderServices {
  data: RenderData
  definition: DefinitionState
  fragments: FragmentSession
  /** Returns how copies of a fragment are refreshed. */
  refreshOf(fragment: string): RefreshMode
  now: Date
  url(route: string, parameters: Record<string, unknown>): BuildResult
  asset(name: string): string | undefined
  /** What describes rows to search engines. */
  described: Surroundings
  /** The address of the page: its path as shown, and its query string. */
  request: { path: string; search: URLSearchParams }
  tracer: TemplateTracer
  /** Returns what the thread has used of the processor, in milliseconds. */
  processorTime: () => number
}
