/** Shared copies in this process, for tests. */
import { LRUCache } from 'lru-cache'
import type { SharedCopies, SharedCopy } from '../../core/caching/shared-copies.ts'
import type { Writing } from './written.ts'

export class MemoryCopies implements SharedCopies {
  readonly #texts: LRUCache<string, { text: string; at: number }>
  readonly #writing: Writing
  readonly isAvailable = true

  constructor(writing: Writing, maximumBytes: number) {
    this.#writing = writing
    this.#texts = new LRUCache({ maxSize: maximumBytes, sizeCalculation: ({ text }) => 2 * text.length + 1 })
  }

  take(key: string): Promise<{ shared: SharedCopy; age: number } | undefined> {
    const kept = this.#texts.get(key)
    const found = kept && this.#writing.read(key, kept.text)
    return Promise.resolve(found && kept && { shared: found.shared, age: performance.now() - kept.at })
  }

  put(key: string, shared: SharedCopy, lifetime: number): Promise<boolean> {
    const text = this.#writing.write(key, shared, lifetime)
    this.#texts.set(key, { text, at: performance.now() }, { ttl: lifetime })
    return Promise.resolve(this.#texts.has(key))
  }

  drop(key: string): Promise<void> {
    this.#texts.delete(key)
    return Promise.resolve()
  }

  clear(): Promise<void> {
    this.#texts.clear()
    return Promise.resolve()
  }

  close = (): Promise<void> => Promise.resolve()
}
