/** The files of imports that are sent in several requests, until all of them are imported as one. */
import { LRUCache } from 'lru-cache'
import type { NamedText } from '../../author/posts/import-posts.ts'

/** Files and characters of an import. */
export const MOST_FILES = 10_000
export const MOST_MEGABYTES = 60
/** How long files are kept, in milliseconds. */
const KEPT = 15 * 60_000
/** Imports at the same time. */
const IMPORTS = 3

export class StagedImport {
  readonly files: NamedText[] = []
  readonly #stopping = new AbortController()
  done = 0
  #characters = 0

  get signal(): AbortSignal {
    return this.#stopping.signal
  }

  stop(): void {
    this.#stopping.abort()
  }

  /** Returns false if there are too many files. */
  add(files: readonly NamedText[]): boolean {
    this.#characters += files.reduce((sum, one) => sum + one.text.length, 0)
    if (this.files.length + files.length > MOST_FILES || this.#characters > MOST_MEGABYTES * 1_000_000)
      return false
    this.files.push(...files)
    return true
  }
}

export class StagedImports {
  readonly #imports = new LRUCache<string, StagedImport>({ max: IMPORTS, ttl: KEPT })

  get(id: string): StagedImport | undefined {
    return this.#imports.get(id)
  }

  begin(id: string): StagedImport {
    const begun = new StagedImport()
    this.#imports.set(id, begun)
    return begun
  }

  forget(id: string): void {
    this.#imports.get(id)?.stop()
    this.#imports.delete(id)
  }
}
