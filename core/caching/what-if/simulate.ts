/** Plays requests, edits and comments against a cache, and counts what readers get. Nothing here depends on the time of day. */
import type { RefreshMode } from '../../shapes/cache-rules.ts'

export interface WhatIf {
  /** The shares of requests, by page. */
  shares: readonly number[]
  /** Requests per second, of all pages. */
  rate: number
  /** Edits per hour, of all pages. Each page is equally likely to change. */
  editsPerHour: number
  /** Comments per hour, of all pages. Pages get them in proportion to their requests. */
  commentsPerHour: number
  refresh: RefreshMode
  /** In seconds. */
  lifetime: number
  /** How many copies the cache holds. */
  size: number
  /** The size of a copy, in bytes. */
  copyBytes: number
  /** What rendering a page takes, in milliseconds. */
  renderMilliseconds: number
  /** How many requests are played. */
  requests: number
  seed: number
}

export interface WhatIfResult {
  /** The share of requests that copies answer. */
  hitShare: number
  /** Per second. */
  renders: number
  /** The share of the processor that rendering takes; above 1, one is not enough. */
  load: number
  /** The share of requests that are answered with what was before a change. */
  staleShare: number
  /** How long before such a request the change was made, in seconds: the mean, and the longest. */
  staleMean: number
  staleLongest: number
  /** The most bytes that copies have taken. */
  bytes: number
}

/** Returns numbers from 0 to 1: the minimal standard generator of Park and Miller (1988). */
export function generator(seed: number): () => number {
  let state = (Math.abs(Math.floor(seed)) % 2_147_483_646) + 1
  return () => {
    state = (state * 48_271) % 2_147_483_647
    return (state - 1) / 2_147_483_646
  }
}

/** Returns a function that chooses a page by the shares. */
export function chooser(shares: readonly number[], random: () => number): () => number {
  const sums: number[] = []
  let sum = 0
  for (const one of shares) sums.push((sum += one))
  return () => {
    const wanted = random() * sum
    let [low, high] = [0, sums.length - 1]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((sums[middle] ?? 0) < wanted) low = middle + 1
      else high = middle
    }
    return low
  }
}

interface Kept {
  expiresAt: number
  /** When the page was changed after the copy was made; Infinity if it was not. */
  changedAt: number
}

export function simulate(what: WhatIf): WhatIfResult {
  const random = generator(what.seed)
  const choose = chooser(what.shares, random)
  const wait = (rate: number) => (rate <= 0 ? Infinity : -Math.log(1 - random()) / rate)
  /** The least recently used first. */
  const copies = new Map<number, Kept>()
  const pages = what.shares.length
  const [expires, refreshes] = [what.refresh !== 'on-change', what.refresh !== 'by-age']
  let now = 0
  const change = (page: number, at: number) => {
    const kept = copies.get(page)
    if (!kept) return
    if (refreshes) copies.delete(page)
    else kept.changedAt = Math.min(kept.changedAt, at)
  }
  let nextEdit = wait(what.editsPerHour / 3_600)
  let nextComment = wait(what.commentsPerHour / 3_600)
  let [hits, stale, staleSum, staleLongest, most] = [0, 0, 0, 0, 0]
  for (let request = 0; request < what.requests; request++) {
    now += wait(what.rate)
    for (; nextEdit <= now; nextEdit += wait(what.editsPerHour / 3_600))
      change(Math.floor(random() * pages), nextEdit)
    for (; nextComment <= now; nextComment += wait(what.commentsPerHour / 3_600))
      change(choose(), nextComment)
    const page = choose()
    const kept = copies.get(page)
    copies.delete(page)
    if (kept && kept.expiresAt > now) {
      hits++
      copies.set(page, kept)
      if (kept.changedAt < now) {
        const age = now - kept.changedAt
        stale++
        staleSum += age
        staleLongest = Math.max(staleLongest, age)
      }
    } else {
      copies.set(page, { expiresAt: expires ? now + what.lifetime : Infinity, changedAt: Infinity })
      if (copies.size > what.size) copies.delete(copies.keys().next().value ?? -1)
      most = Math.max(most, copies.size)
    }
  }
  const renders = now === 0 ? 0 : (what.requests - hits) / now
  return {
    hitShare: what.requests === 0 ? 0 : hits / what.requests,
    renders,
    load: (renders * what.renderMilliseconds) / 1_000,
    staleShare: what.requests === 0 ? 0 : stale / what.requests,
    staleMean: stale === 0 ? 0 : staleSum / stale,
    staleLongest,
    bytes: most * what.copyBytes,
  }
}

export interface Curve {
  /** Lifetimes in seconds, or numbers of copies. */
  at: number
  result: WhatIfResult
}

/** Ten lifetimes around the one that is set, each twice as long as the one before. */
export const lifetimesAround = (lifetime: number): number[] =>
  Array.from({ length: 10 }, (_, at) => Math.max(1, Math.round(lifetime * 2 ** (at - 5))))

/** Sizes from a few copies to one of each page. */
export const sizesUpTo = (pages: number): number[] => [
  ...new Set(Array.from({ length: 10 }, (_, at) => Math.max(1, Math.round((pages * (at + 1)) / 10)))),
]
