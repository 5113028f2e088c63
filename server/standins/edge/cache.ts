/** Stores the responses of the edge cache. A library applies the rules of HTTP caching (RFC 9111). */
import CachePolicy from 'http-cache-semantics'
import { LRUCache } from 'lru-cache'

/** Fields for this cache only, which are not passed on. */
const OWN_FIELDS = ['cdn-cache-control', 'cache-groups']
/** The maximum number of addresses, so that a purge, which looks at each of them, is fast. */
const MOST_ADDRESSES = 1_000
/** The maximum number of responses per address, e.g. a page and its data, each in two encodings. */
const MOST_VARIANTS = 8
/** The number of purges with which responses in flight are compared. */
const REMEMBERED_PURGES = 1_000
const ENTRY_BYTES = 500

export type Fields = Record<string, string | string[] | undefined>

export interface EdgeRequest {
  method: string
  /** Path and query string. */
  url: string
  /** With their names in lower case. */
  headers: Fields
}

export interface EdgeAnswer {
  status: number
  headers: Fields
  body: Buffer
}

export interface StoredAnswer extends EdgeAnswer {
  policy: CachePolicy
  groups: readonly string[]
  uses: number
}

export type PurgedGroups = readonly string[] | 'all'

export interface EdgeCopy {
  address: string
  type: string
  encoding: string
  groups: readonly string[]
  bytes: number
  uses: number
  remainingMilliseconds: number
}

export class EdgeCache {
  readonly #stored: LRUCache<string, StoredAnswer[]>
  readonly #purges: { generation: number; groups: PurgedGroups }[] = []
  #generation = 0
  #forgotten = 0

  constructor(maximumBytes: number) {
    this.#stored = new LRUCache<string, StoredAnswer[]>({
      max: MOST_ADDRESSES,
      maxSize: maximumBytes,
      sizeCalculation: (variants, key) =>
        variants.reduce((sum, { body }) => sum + body.length + ENTRY_BYTES, 2 * key.length),
    })
  }

  /** Increases with each purge. */
  get generation(): number {
    return this.#generation
  }

  get bytes(): number {
    return this.#stored.calculatedSize
  }

  /** Returns a fresh response, or else one that can be revalidated. */
  find(request: EdgeRequest): { stored: StoredAnswer; isFresh: boolean } | undefined {
    let validatable: StoredAnswer | undefined
    for (const stored of this.#stored.get(keyOf(request)) ?? []) {
      const { response, revalidation } = stored.policy.evaluateRequest(readable(request))
      if (response && !revalidation) return { stored, isFresh: true }
      if (revalidation?.headers['if-none-match'] !== undefined) validatable = stored
    }
    return validatable && { stored: validatable, isFresh: false }
  }

  /**
   * Stores a response, unless HTTP forbids it or one of its groups was purged in the meantime.
   * @param begun the generation before the request to the blog
   */
  keep(request: EdgeRequest, answer: EdgeAnswer, begun: number): boolean {
    const groups = groupsIn(answer.headers)
    const policy = policyOf(request, answer)
    if (!policy.storable() || answer.headers['set-cookie'] !== undefined || this.#isPurged(groups, begun))
      return false
    const others = (this.#stored.get(keyOf(request)) ?? []).filter(
      (one) => one.policy.evaluateRequest(readable(request)).response === undefined && !isSame(one, answer),
    )
    const all = [{ ...answer, policy, groups, uses: 0 }, ...others].slice(0, MOST_VARIANTS)
    this.#stored.set(keyOf(request), all)
    return this.#stored.has(keyOf(request))
  }

  /**
   * Returns a stored response with the fields of a 304 (RFC 9111 §4.3.4).
   * @returns undefined if the answer is not a 304 for it
   */
  revalidate(stored: StoredAnswer, answer: EdgeAnswer): EdgeAnswer | undefined {
    if (answer.status !== 304 || answer.headers['etag'] !== stored.headers['etag']) return undefined
    // The fields for this cache are only taken from the 304: without them, the permission to store has ended.
    return { ...stored, headers: { ...withoutOwn(stored.headers), ...answer.headers } }
  }

  /** Drops all responses in one of the groups. @returns how many */
  purge(groups: PurgedGroups): number {
    this.#purges.push({ generation: ++this.#generation, groups })
    if (this.#purges.length > REMEMBERED_PURGES)
      this.#forgotten = this.#purges.shift()?.generation ?? this.#forgotten
    let dropped = 0
    const named = new Set(groups === 'all' ? [] : groups)
    for (const [key, variants] of [...this.#stored.entries()]) {
      const left =
        groups === 'all' ? [] : variants.filter((one) => !one.groups.some((group) => named.has(group)))
      if (left.length === variants.length) continue
      dropped += variants.length - left.length
      if (left.length === 0) this.#stored.delete(key)
      else this.#stored.set(key, left)
    }
    return dropped
  }

  /** Drops the responses of an address after an unsafe request to it (RFC 9111 §4.4). */
  invalidate(request: EdgeRequest): void {
    this.#stored.delete(keyOf(request))
  }

  /** Returns the responses that were used last, and the number of all of them. */
  copies(most: number): { copies: EdgeCopy[]; total: number } {
    const all = [...this.#stored.entries()].flatMap(([key, variants]) =>
      variants.map((one) => ({ key, ...one })),
    )
    return {
      total: all.length,
      copies: all.slice(0, most).map(({ key, headers, body, groups, uses, policy }) => ({
        address: key.slice(key.indexOf(' ') + 1),
        type: String(headers['content-type'] ?? '').replace(/;.*$/, ''),
        encoding: String(headers['content-encoding'] ?? ''),
        groups,
        bytes: body.length,
        uses,
        remainingMilliseconds: Math.max(0, policy.timeToLive()),
      })),
    }
  }

  #isPurged(groups: readonly string[], begun: number): boolean {
    if (begun < this.#forgotten) return true
    return this.#purges.some(
      (one) =>
        one.generation > begun &&
        (one.groups === 'all' || groups.some((group) => one.groups.includes(group))),
    )
  }
}

/** Responses are stored per host. */
const keyOf = ({ url, headers }: EdgeRequest): string => `${String(headers['host'])} ${url}`

const isSame = (one: EdgeAnswer, other: EdgeAnswer): boolean =>
  one.headers['content-type'] === other.headers['content-type'] &&
  one.headers['content-encoding'] === other.headers['content-encoding']

const readable = ({ method, url, headers }: EdgeRequest): CachePolicy.HttpRequest => ({
  // A response to GET also answers HEAD.
  method: method === 'HEAD' ? 'GET' : method,
  url,
  headers: headers as CachePolicy.Headers,
})

/** `CDN-Cache-Control` takes precedence over `Cache-Control` (RFC 9213). */
function policyOf(request: EdgeRequest, { status, headers }: EdgeAnswer): CachePolicy {
  const targeted = headers['cdn-cache-control']
  const told =
    targeted === undefined ? headers : { ...headers, 'cache-control': targeted, expires: undefined }
  // No heuristic freshness (RFC 9111 §4.2.2).
  return new CachePolicy(
    readable(request),
    { status, headers: told as CachePolicy.Headers },
    { shared: true, cacheHeuristic: 0 },
  )
}

/** Parses a list of strings (RFC 9651 §3.1). */
function groupsIn(headers: Fields): string[] {
  const field = headers['cache-groups']
  return [...String(field ?? '').matchAll(/"((?:[^"\\]|\\.)*)"/g)].map(([, text = '']) =>
    text.replace(/\\(.)/g, '$1'),
  )
}

/** Returns the fields of a stored response for a reader. */
export function sentFields({ policy, headers }: Pick<StoredAnswer, 'policy' | 'headers'>): Fields {
  return withoutOwn({ ...headers, age: policy.responseHeaders()['age'] })
}

export const withoutOwn = (headers: Fields): Fields =>
  Object.fromEntries(Object.entries(headers).filter(([name]) => !OWN_FIELDS.includes(name)))
