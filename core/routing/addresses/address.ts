/** Reads a request's raw address: what is malformed, what is too long, and which form is canonical. */
import type { LetterCase, TrailingSlash } from '../../shapes/address-policy.ts'

/** Longest path and query together, in characters. RFC 9110 §4.1 asks for at least 8,000. */
const ADDRESS_LIMIT = 8_000

/** Which of the forms that mean the same place is the address; the others are answered with 308. */
export interface AddressPolicy {
  /** `lower`: letters A–Z become a–z; other letters, and those of the query, stay. */
  letterCase: LetterCase
  /** `with`: every path ends with a slash, but those that look like files (`/feed.atom`). */
  trailingSlash: TrailingSlash
}

export const DEFAULT_POLICY: AddressPolicy = { letterCase: 'lower', trailingSlash: 'without' }

export type AddressReading =
  /** `path` is what patterns match: without a slash at the end, whatever the policy. */
  | { ok: true; path: string; query: string }
  | { ok: false; status: 400 | 414; reason: string }
  /** The same place under its canonical address (path and query). */
  | { ok: false; status: 308; to: string; reason: string }

/**
 * Checks and normalises a request target.
 *
 * Percent-encoding follows RFC 3986 §6.2.2 (upper-case hexadecimal, unreserved characters decoded, what may not stand
 * in a path encoded), dot segments its §5.2.4; a path has no empty segment. The result of a redirect is never
 * redirected again.
 * @param target path and query as sent, e.g. `/posts?page=2`
 */
export function readAddress(target: string, policy: AddressPolicy = DEFAULT_POLICY): AddressReading {
  if (target.length > ADDRESS_LIMIT) {
    return { ok: false, status: 414, reason: `the address is longer than ${ADDRESS_LIMIT} characters` }
  }
  const mark = target.indexOf('?')
  const raw = mark === -1 ? target : target.slice(0, mark)
  const query = mark === -1 ? '' : target.slice(mark + 1)
  const malformed = /%(?![0-9A-Fa-f]{2})/.exec(raw)
  if (malformed) {
    return {
      ok: false,
      status: 400,
      reason: `“${raw.slice(malformed.index, malformed.index + 3)}” is not a percent-encoding`,
    }
  }
  try {
    if (decodeURIComponent(raw).includes('\0'))
      return { ok: false, status: 400, reason: 'the address contains a null character' }
  } catch {
    return { ok: false, status: 400, reason: 'the percent-encoding is not UTF-8' }
  }
  // Nearly every request asks for the canonical form already.
  if (policy.trailingSlash === 'without' && PLAIN[policy.letterCase].test(raw))
    return { ok: true, path: raw, query }
  const reasons: string[] = []
  const apply = (path: string, changed: string, reason: string): string => {
    if (changed !== path) reasons.push(reason)
    return changed
  }
  let path = apply(raw, normaliseEncoding(raw), 'with the usual percent-encoding')
  path = apply(path, path.replace(/\/{2,}/g, '/'), 'without the double slash')
  path = apply(path, removeDotSegments(path), 'without “.” and “..”')
  if (policy.letterCase === 'lower') path = apply(path, lowerCase(path), 'in lower-case letters')
  const bare = path.replace(/(.)\/$/, '$1')
  const shown = withPolicySlash(bare, policy)
  path = apply(
    path,
    shown,
    shown.length < path.length ? 'without the trailing slash' : 'with a trailing slash',
  )
  if (reasons.length === 0) return { ok: true, path: bare, query }
  const keptQuery = query.replace(/[^!-~]/gu, encodeAny)
  return {
    ok: false,
    status: 308,
    to: mark === -1 || query === '' ? path : `${path}?${keptQuery}`,
    reason: reasons.join(', '),
  }
}

/** A path as the policy shows it, given without a slash at the end. */
export const withPolicySlash = (path: string, { trailingSlash }: AddressPolicy): string =>
  trailingSlash === 'without' || path === '/' || /\.[^/]*$/.test(path) ? path : `${path}/`

/** Unreserved characters only, one slash at a time, none at the end, no segment that begins with a dot. */
const PLAIN: Readonly<Record<LetterCase, RegExp>> = {
  lower: /^(?:\/|(?:\/[a-z0-9\-_~][a-z0-9\-._~]*)+)$/,
  keep: /^(?:\/|(?:\/[A-Za-z0-9\-_~][A-Za-z0-9\-._~]*)+)$/,
}

const UNRESERVED = /^[A-Za-z0-9\-._~]$/
/** RFC 3986 §3.3: pchar without percent-encodings, and the slash. */
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

/** Letters outside percent-encodings, whose hexadecimal digits are upper-case. */
const lowerCase = (path: string) =>
  path.replace(/%[0-9A-F]{2}|[A-Z]+/g, (found) => (found.startsWith('%') ? found : found.toLowerCase()))

/** RFC 3986 §5.2.4, for a path that begins with a slash and has no empty segment. */
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
