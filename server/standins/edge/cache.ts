/** What the edge cache keeps, and for how long. A library decides by the rules of HTTP (RFC 9111). */
import CachePolicy from 'http-cache-semantics'
import { LRUCache } from 'lru-cache'

/** Fields that are for this cache alone, and are not passed on. */
const OWN_FIELDS = ['cdn-cache-control', 'cache-groups']
/** The different answers of one address that are kept, e.g. a page, its data, and each in two encodings. */
const MOST_VARIANTS = 8
/** Purges that are remembered for answers that are on their way. */
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
      maxSize: maximumBytes,
      sizeCalculation: (variants, key) =>
        variants.reduce((sum, { body }) => sum + body.length + ENTRY_BYTES, 2 * key.length),
    })
  }

  /** Grows with each purge. */
  get generation(): number {
    return this.#generation
  }

  get bytes(): number {
    return this.#stored.calculatedSize
  }

  /** Returns what is kept for a request: first what is fresh, otherwise what can be validated. */
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
   * Keeps an answer if it may be kept, and if nothing was purged since that it may be from before.
   * @param begun the generation before the blog was asked
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
   * Notes that the blog has confirmed a stored answer (RFC 9111 §4.3.4).
   * @returns undefined if the answer is about another one
   */
  renew(request: EdgeRequest, stored: StoredAnswer, confirmed: EdgeAnswer): EdgeAnswer | undefined {
    if (confirmed.status !== 304 || confirmed.headers['etag'] !== stored.headers['etag']) return undefined
    // What the 304 does not have stays as it is, except what allows to keep the answer.
    const left = Object.entries(stored.headers).filter(([name]) => !OWN_FIELDS.includes(name))
    return { ...stored, headers: { ...Object.fromEntries(left), ...confirmed.headers } }
  }

  /** Drops all answers with one of the groups. @returns how many */
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

  /** Drops the answers of an address, which a request has changed (RFC 9111 §4.4). */
  invalidate(request: EdgeRequest): void {
    this.#stored.delete(keyOf(request))
  }

  copies(): EdgeCopy[] {
    return [...this.#stored.entries()].flatMap(([key, variants]) =>
      variants.map(({ headers, body, groups, uses, policy }) => ({
        address: key.slice(key.indexOf(' ') + 1),
        type: String(headers['content-type'] ?? '').replace(/;.*$/, ''),
        encoding: String(headers['content-encoding'] ?? ''),
        groups,
        bytes: body.length,
        uses,
        remainingMilliseconds: Math.max(0, policy.timeToLive()),
      })),
    )
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

/** Pages of two hosts are different ones. */
const keyOf = ({ url, headers }: EdgeRequest): string => `${String(headers['host'])} ${url}`

const isSame = (one: EdgeAnswer, other: EdgeAnswer): boolean =>
  one.headers['content-type'] === other.headers['content-type'] &&
  one.headers['content-encoding'] === other.headers['content-encoding']

const readable = ({ method, url, headers }: EdgeRequest): CachePolicy.HttpRequest => ({
  // What answers GET also answers HEAD.
  method: method === 'HEAD' ? 'GET' : method,
  url,
  headers: headers as CachePolicy.Headers,
})

/** `CDN-Cache-Control` takes precedence over `Cache-Control` (RFC 9213 §2.2). */
function policyOf(request: EdgeRequest, { status, headers }: EdgeAnswer): CachePolicy {
  const targeted = headers['cdn-cache-control']
  const told =
    targeted === undefined ? headers : { ...headers, 'cache-control': targeted, expires: undefined }
  // Without a lifetime nothing is guessed from the age of an answer.
  return new CachePolicy(
    readable(request),
    { status, headers: told as CachePolicy.Headers },
    { shared: true, cacheHeuristic: 0 },
  )
}

/** Reads the members of a list of strings (RFC 9875 §2). */
function groupsIn(headers: Fields): string[] {
  const field = headers['cache-groups']
  return [...String(field ?? '').matchAll(/"((?:[^"\\]|\\.)*)"/g)].map(([, text = '']) =>
    text.replace(/\\(.)/g, '$1'),
  )
}

/** Returns the fields of a stored answer as a reader gets them. */
export function sentFields({ policy, headers }: Pick<StoredAnswer, 'policy' | 'headers'>): Fields {
  return withoutOwn({ ...headers, age: policy.responseHeaders()['age'] })
}

export const withoutOwn = (headers: Fields): Fields =>
  Object.fromEntries(Object.entries(headers).filter(([name]) => !OWN_FIELDS.includes(name)))
