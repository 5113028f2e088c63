/** Counts, for each rule, how many answers came from copies, and how long rendering has taken otherwise. */
import type { FragmentStore } from '../../../core/caching/store.ts'
import type { PageRequest } from '../page-request.ts'

/** Counts are kept for an hour, in parts of a minute. */
const PART = 60_000
const PARTS = 60

/** How often something was asked for in the last hour. */
export interface CopyCount {
  hits: number
  misses: number
  /** Rendered for one reader alone. */
  bypasses: number
  /** What rendering has taken for misses, in milliseconds. */
  rendering: number
}

const none = (): CopyCount => ({ hits: 0, misses: 0, bypasses: 0, rendering: 0 })

export class CopyCounts {
  #parts: { began: number; counts: Map<string, CopyCount> }[] = []

  /**
   * @param rule `page ROUTE`, or the name of a fragment
   * @param now in milliseconds
   */
  note(rule: string, outcome: 'hit' | 'miss' | 'bypass', now: number, milliseconds = 0): void {
    let part = this.#parts.at(-1)
    if (!part || now - part.began >= PART || now < part.began) {
      part = { began: now, counts: new Map() }
      this.#parts.push(part)
      if (this.#parts.length > PARTS) this.#parts.shift()
    }
    let count = part.counts.get(rule)
    if (!count) part.counts.set(rule, (count = none()))
    if (outcome === 'hit') count.hits++
    else if (outcome === 'bypass') count.bypasses++
    else {
      count.misses++
      count.rendering += milliseconds
    }
  }

  /** Returns the counts of the last hour, by rule. */
  lastHour(now: number): Record<string, CopyCount> {
    const sums: Record<string, CopyCount> = {}
    for (const { began, counts } of this.#parts) {
      if (now - began >= PART * PARTS) continue
      for (const [rule, one] of counts) {
        const sum = (sums[rule] ??= none())
        for (const key of ['hits', 'misses', 'bypasses', 'rendering'] as const) sum[key] += one[key]
      }
    }
    return sums
  }
}

/** Whether a request counts as one of a reader. */
export const isCounted = ({ request, tracer }: PageRequest): boolean =>
  request.as === 'reader' && !request.isBackground && !tracer.isRecording

const ofStore = new WeakMap<FragmentStore, CopyCounts>()

/** Returns the counts of a store. */
export function countsOf(store: FragmentStore): CopyCounts {
  let counts = ofStore.get(store)
  if (!counts) ofStore.set(store, (counts = new CopyCounts()))
  return counts
}

/** Adds up the counts of several processes. */
export function addCounts(all: readonly Readonly<Record<string, CopyCount>>[]): Record<string, CopyCount> {
  const sums: Record<string, CopyCount> = {}
  for (const counts of all)
    for (const [rule, one] of Object.entries(counts)) {
      const sum = (sums[rule] ??= none())
      for (const key of ['hits', 'misses', 'bypasses', 'rendering'] as const) sum[key] += one[key]
    }
  return sums
}
