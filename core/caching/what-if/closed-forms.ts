/** What is known of caches without simulating them. Requests are independent of each other. */

/** Returns the shares of requests of `count` pages whose popularity falls with their rank (Zipf's law). */
export function zipfShares(count: number, exponent: number): number[] {
  const weights = Array.from({ length: count }, (_, at) => (at + 1) ** -exponent)
  const sum = weights.reduce((all, one) => all + one, 0)
  return weights.map((one) => one / sum)
}

/**
 * Returns the share of requests that a copy with a fixed lifetime answers, if it is made at the first request after the one
 * before has expired: λT / (1 + λT). E.g. J. Jung, A. Berger, H. Balakrishnan, “Modeling TTL-based Internet caches”,
 * INFOCOM 2003 (cited from memory).
 * @param rate requests per second
 * @param lifetime in seconds
 */
export const lifetimeHitShare = (rate: number, lifetime: number): number =>
  (rate * lifetime) / (1 + rate * lifetime)

/**
 * Returns nearly the share of requests that an LRU cache answers: H. Che, Y. Tung, Z. Wang, “Hierarchical Web caching
 * systems”, IEEE JSAC 20 (2002), cited from memory.
 * @param shares of requests, by page
 * @param size how many copies the cache holds
 */
export function cheHitShare(shares: readonly number[], size: number): number {
  if (size >= shares.length) return 1
  const held = (time: number) => shares.reduce((sum, one) => sum + 1 - Math.exp(-one * time), 0)
  let [low, high] = [0, 1]
  while (held(high) < size) high *= 2
  for (let round = 0; round < 80; round++) {
    const middle = (low + high) / 2
    if (held(middle) < size) low = middle
    else high = middle
  }
  return shares.reduce((sum, one) => sum + one * (1 - Math.exp(-one * high)), 0)
}

/**
 * Returns the exact share of requests that an LRU cache answers: W. F. King, “Analysis of demand paging algorithms”, IFIP
 * Congress 1971, cited from memory. The time grows with the number of arrangements, so it is for small caches.
 */
export function kingHitShare(shares: readonly number[], size: number): number {
  let total = 0
  /** @param chance that the latest different pages were these, in this order */
  const visit = (used: ReadonlySet<number>, chance: number, held: number, left: number): void => {
    if (left === 0) {
      total += chance * held
      return
    }
    for (const [page, share] of shares.entries())
      if (!used.has(page))
        visit(new Set([...used, page]), (chance * share) / (1 - held), held + share, left - 1)
  }
  visit(new Set(), 1, 0, Math.min(size, shares.length))
  return total
}

/**
 * Returns the share of requests that copies answer if a change drops the copy of its page, and nothing else does: the chance
 * that of two independent Poisson streams the next event is of the first, λ / (λ + μ), weighted by the requests.
 * @param rate requests per second, of all pages
 * @param shares of requests, by page
 * @param changes of each page, per second
 */
export const refreshedHitShare = (
  rate: number,
  shares: readonly number[],
  changes: readonly number[],
): number =>
  shares.reduce((sum, one, page) => sum + (one * one * rate) / (one * rate + (changes[page] ?? 0)), 0)
