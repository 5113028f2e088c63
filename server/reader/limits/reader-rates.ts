/** Limits how many pages one reader can request. */
import { LRUCache } from 'lru-cache'
import { networkOf } from '../comments/visitor.ts'

export interface ReaderLimits {
  /** Requests that one address may make each second in the long run. */
  perSecond: number
  /** Requests that it may make at once. */
  burst: number
}

/** Addresses that are remembered; the least recent are forgotten. */
export const REMEMBERED = 20_000

export const LOOPBACK = /^(127\.|::1$|::ffff:127\.)/i

/** A bucket for each address, which fills with time and from which each request takes one. */
export class ReaderRates {
  readonly #limits: ReaderLimits
  readonly #buckets = new LRUCache<string, { left: number; at: number }>({ max: REMEMBERED })

  constructor(limits: ReaderLimits) {
    this.#limits = limits
  }

  /**
   * Counts a request. Programs of this machine are not limited: one of them may be a proxy that is not configured, behind
   * which everybody has its address.
   * @returns the seconds after which to try again, if there were too many; otherwise undefined
   */
  take(client: string, now = performance.now()): number | undefined {
    if (LOOPBACK.test(client)) return undefined
    const { perSecond, burst } = this.#limits
    const key = networkOf(client)
    const known = this.#buckets.get(key) ?? { left: burst, at: now }
    const left = Math.min(burst, known.left + ((now - known.at) / 1_000) * perSecond)
    this.#buckets.set(key, { left: Math.max(0, left - 1), at: now })
    return left >= 1 ? undefined : Math.max(1, Math.ceil((1 - left) / perSecond))
  }
}
