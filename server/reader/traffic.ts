/** The blog's most recent requests. */
import type { SubmissionResult } from './comments/submission-step.ts'

export interface TrafficEntry {
  id: string
  at: string
  method: string
  target: string
  status: number
  route: string | null
  /** The type of the response. */
  accepts: 'html' | 'json'
  /** Whether a copy of the whole page answered. */
  copy: boolean
  /** How many fragments were stored, of how many. */
  fragments: { hits: number; total: number }
  milliseconds: number
  /** What became of a comment form; null for other requests. */
  submission: SubmissionResult | null
}

const LIMIT = 200

export class Traffic {
  readonly #entries: TrafficEntry[] = []
  readonly #watchers = new Set<(entry: TrafficEntry) => void>()

  add(entry: TrafficEntry): void {
    this.#entries.push(entry)
    if (this.#entries.length > LIMIT) this.#entries.shift()
    for (const tell of this.#watchers) tell(entry)
  }

  /** Returns the requests, the latest first. */
  recent(): TrafficEntry[] {
    return [...this.#entries].reverse()
  }

  /** @returns a function that ends the watch */
  watch(tell: (entry: TrafficEntry) => void): () => void {
    this.#watchers.add(tell)
    return () => this.#watchers.delete(tell)
  }
}
