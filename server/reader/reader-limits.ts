/** Limits how many pages one reader can request, and finds out who a reader is behind a proxy. */
import { BlockList, isIP } from 'node:net'
import { LRUCache } from 'lru-cache'
import { networkOf } from './comments/visitor.ts'

export interface ReaderLimits {
  /** Requests that one address may make each second, for as long as it likes. */
  perSecond: number
  /** Requests that it may make at once. */
  burst: number
}

/** Addresses that are remembered; the least recent are forgotten. */
const REMEMBERED = 20_000

const LOOPBACK = /^(127\.|::1$|::ffff:127\.)/i

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

/** Reads addresses and networks such as `10.0.0.0/8`. @returns the first that is none, if any */
export function readProxies(text: string): { proxies: BlockList } | { invalid: string } {
  const proxies = new BlockList()
  for (const one of text.split(/[\s,]+/).filter((part) => part !== '')) {
    const [address = '', prefix, ...more] = one.split('/')
    const family = { 4: 'ipv4', 6: 'ipv6' } as const
    const kind = family[isIP(address) as 4 | 6] as 'ipv4' | 'ipv6' | undefined
    const length = prefix === undefined ? undefined : Number(prefix)
    if (
      !kind ||
      more.length > 0 ||
      (length !== undefined && !(length >= 0 && length <= (kind === 'ipv4' ? 32 : 128)))
    )
      return { invalid: one }
    if (length === undefined) proxies.addAddress(address, kind)
    else proxies.addSubnet(address, length, kind)
  }
  return { proxies }
}

const isTrusted = (proxies: BlockList, address: string): boolean => {
  const plain = address.replace(/^::ffff:(?=\d+\.)/i, '')
  const version = isIP(plain)
  return version !== 0 && proxies.check(plain, version === 4 ? 'ipv4' : 'ipv6')
}

/**
 * Returns the address of a reader. What a header says counts only if a trusted proxy has sent it, and of several addresses
 * the last one that no trusted proxy has: whatever is before it may be made up.
 * @param forwarded the `X-Forwarded-For` header
 */
export function readerAddress(connected: string, forwarded: string | undefined, proxies: BlockList): string {
  let address = connected
  const named = (forwarded ?? '')
    .slice(0, 2_000)
    .split(',')
    .map((one) => one.trim())
  while (isTrusted(proxies, address)) {
    const next = named.pop()
    if (next === undefined || isIP(next) === 0) return address
    address = next
  }
  return address
}
