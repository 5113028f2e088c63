/** Reads the address of a request: rejects malformed and overlong ones, and computes the canonical form. */
import type { LetterCase, TrailingSlash } from '../../shapes/address-policy.ts'

/** The maximum length of path and query together, in characters. RFC 9110 §4.1 recommends at least 8,000. */
const ADDRESS_LIMIT = 8_000

/** Which form of an address is canonical. Requests for the other forms are redirected with 308. */
export interface AddressPolicy {
  /** `lower`: A–Z in the path become a–z. Other letters and the query string are unchanged. */
  letterCase: LetterCase
  /** `with`: every path ends with a slash, except file names such as `/feed.atom`. */
  trailingSlash: TrailingSlash
}

export const DEFAULT_POLICY: AddressPolicy = { letterCase: 'lower', trailingSlash: 'without' }

export type AddressReading =
  /** `path` has no trailing slash, whatever the policy. Patterns match it. */
  | { ok: true; path: string; query: string }
  | { ok: false; status: 400 | 414; reason: string }
  /** `to` is the canonical address: path and query string. */
  | { ok: false; status: 308; to: string; reason: string }

/**
 * Validates a request target and computes its canonical form.
 *
 * Percent-encoding follows RFC 3986 §6.2.2: hexadecimal digits are upper-case, unreserved characters are decoded, and
 * characters that are not allowed in a path are encoded. Dot segments are removed as in §5.2.4, and empty segments too.
 * A canonical address is never redirected again.
 * @param target path and query as sent, e.g. `/posts?page=2`
 */
export function readAddress(target: string, policy: AddressPolicy = DEFAULT_POLICY): AddressReading {
  if (target.length > ADDRESS_LIMIT) {
    return { ok: false, status: 414, reason: `The address is longer than ${ADDRESS_LIMIT} characters.` }
  }
  const mark = target.indexOf('?')
  const raw = mark === -1 ? target : target.slice(0, mark)
  const query = mark === -1 ? '' : target.slice(mark + 1)
  // Nearly every request is for the canonical form.
  if (policy.trailingSlash === 'without' && PLAIN[policy.letterCase].test(raw))
    return { ok: true, path: raw, query }
  const malformed = /%(?![0-9A-Fa-f]{2})/.exec(raw)
  if (malformed) {
    return {
      ok: false,
      status: 400,
      reason: `“${raw.slice(malformed.index, malformed.index + 3)}” is not a valid percent-encoding.`,
    }
  }
  try {
    if (decodeURIComponent(raw).includes('\0'))
      return { ok: false, status: 400, reason: 'The address contains a null character.' }
  } catch {
    return { ok: false, status: 400, reason: 'The percent-encoding is not UTF-8.' }
  }
  const reasons: string[] = []
  const apply = (path: string, changed: string, reason: string): string => {
    if (changed !== path) reasons.push(reason)
    return changed
  }
  let path = apply(raw, normaliseEncoding(raw), 'normalized percent-encoding')
  path = apply(path, path.replace(/\/{2,}/g, '/'), 'no double slash')
  path = apply(path, removeDotSegments(path), 'no “.” or “..”')
  if (policy.letterCase === 'lower') path = apply(path, lowerCase(path), 'lower case')
  const bare = path.replace(/(.)\/$/, '$1')
  const shown = withPolicySlash(bare, policy)
  path = apply(path, shown, shown.length < path.length ? 'no trailing slash' : 'trailing slash')
  if (reasons.length === 0) return { ok: true, path: bare, query }
  const keptQuery = query.replace(/[^!-~]/gu, encodeAny)
  return {
    ok: false,
    status: 308,
    to: mark === -1 || query === '' ? path : `${path}?${keptQuery}`,
    reason: `Canonical form: ${reasons.join(', ')}.`,
  }
}

/** Adds the trailing slash that the policy requires. @param path without a trailing slash */
export const withPolicySlash = (path: string, { trailingSlash }: AddressPolicy): string =>
  trailingSlash === 'without' || path === '/' || /\.[^/]*$/.test(path) ? path : `${path}/`

/** Matches paths that are certainly canonical: unreserved characters, single slashes, no segment starting with a dot. */
const PLAIN: Readonly<Record<LetterCase, RegExp>> = {
  lower: /^(?:\/|(?:\/[a-z0-9\-_~][a-z0-9\-._~]*)+)$/,
  keep: /^(?:\/|(?:\/[A-Za-z0-9\-_~][A-Za-z0-9\-._~]*)+)$/,
}

const UNRESERVED = /^[A-Za-z0-9\-._~]$/
/** Characters that are not allowed in a path (RFC 3986 §3.3: everything but pchar and the slash). */
const NOT_IN_PATHS = /[^A-Za-z0-9\-._~!$&'()*+,;=:@/%]/gu

const encodeAny = (char: string) => encodeURIComponent(char.isWellFormed() ? char : '\ufffd')

function normaliseEncoding(path: string): string {
  return path
    .replace(/%[0-9A-Fa-f]{2}/g, (sequence) => {
      const char = String.fromCharCode(parseInt(sequence.slice(1), 16))
      return UNRESERVED.test(char) ? char : sequence.toUpperCase()
    })
    .replace(NOT_IN_PATHS, encodeAny)
}

/** Lower-cases A–Z outside percent-encodings, whose hexadecimal digits stay upper-case. */
const lowerCase = (path: string) =>
  path.replace(/%[0-9A-F]{2}|[A-Z]+/g, (found) => (found.startsWith('%') ? found : found.toLowerCase()))

/** Removes dot segments (RFC 3986 §5.2.4) from a path that starts with a slash and has no empty segment. */
function removeDotSegments(path: string): string {
  if (!/\/\.{1,2}(?:\/|$)/.test(path)) return path
  const kept: string[] = []
  const segments = path.split('/').slice(1)
  for (const [index, segment] of segments.entries()) {
    const isLast = index === segments.length - 1
    if (segment === '..') kept.pop()
    if (segment !== '.' && segment !== '..') kept.push(segment)
    else if (isLast) kept.push('')
  }
  return `/${kept.join('/')}`
}
