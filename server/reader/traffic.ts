/** The blog's recent requests: a short memory, and news for whoever watches. */

export interface TrafficEntry {
  id: string
  at: string
  method: string
  target: string
  status: number
  route: string | null
  gets: 'page' | 'data'
  /** Kept parts taken from the store, of how many. */
  fragments: { hits: number; total: number }
  milliseconds: number
}

const REMEMBERED = 200

export class Traffic {
  readonly #entries: TrafficEntry[] = []
  readonly #watchers = new Set<(entry: TrafficEntry) => void>()

  add(entry: TrafficEntry): void {
    this.#entries.push(entry)
    if (this.#entries.length > REMEMBERED) this.#entries.shift()
    for (const tell of this.#watchers) tell(entry)
  }

  /** Newest first. */
  recent(): TrafficEntry[] {
    return [...this.#entries].reverse()
  }

  /** @returns a function that ends the watch */
  watch(tell: (entry: TrafficEntry) => void): () => void {
    this.#watchers.add(tell)
    return () => this.#watchers.delete(tell)
  }
}
