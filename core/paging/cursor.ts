/**
 * Cursors: pages that start after a row instead of at an offset (“keyset pagination”, common practice). No row is repeated
 * or skipped when rows are added or removed, and every page costs the same.
 */

/** Where a page starts: the values that a row is ordered by, as PostgreSQL prints them, or null. */
export interface Cursor {
  toward: 'after' | 'before'
  values: readonly (string | null)[]
}

/** The maximum length of a cursor, in characters. */
const CURSOR_LIMIT = 4_000

/** Signs a text with the server's key. The signature is deterministic and base64url. */
export type Sign = (text: string) => string

const SHORT = { after: 'a', before: 'b' } as const

/**
 * Encodes a cursor as an opaque text for addresses.
 * @param scope the listing and its order, for which alone the cursor is valid
 */
export function writeCursor(cursor: Cursor, scope: string, sign: Sign): string {
  const body = toBase64Url(JSON.stringify([SHORT[cursor.toward], ...cursor.values]))
  return `${body}.${sign(signed(scope, body))}`
}

/** Starts with the length of the scope, so that no other scope and body give the same text. */
const signed = (scope: string, body: string) => `${scope.length}:${scope}${body}`

/** Decodes a cursor and verifies its signature. Returns the reason, as part of a sentence, if it is not valid. */
export function readCursor(
  text: string,
  scope: string,
  sign: Sign,
): { ok: true; cursor: Cursor } | { ok: false; why: string } {
  const refused = (why: string) => ({ ok: false as const, why })
  if (text.length > CURSOR_LIMIT) return refused('it is too long')
  const [body = '', signature, ...more] = text.split('.')
  if (signature === undefined || more.length > 0 || !/^[A-Za-z0-9_-]+$/.test(body))
    return refused('it is not a cursor')
  if (!sameText(signature, sign(signed(scope, body))))
    return refused('it belongs to another listing, or it was changed')
  try {
    const [toward, ...values] = JSON.parse(fromBase64Url(body)) as [string, ...(string | null)[]]
    return { ok: true, cursor: { toward: toward === SHORT.before ? 'before' : 'after', values } }
  } catch {
    return refused('it is not a cursor')
  }
}

/** Compares two texts in constant time. */
function sameText(a: string, b: string): boolean {
  let difference = a.length ^ b.length
  for (let index = 0; index < a.length; index++)
    difference |= a.charCodeAt(index) ^ b.charCodeAt(index % Math.max(1, b.length))
  return difference === 0
}

/** Encodes the UTF-8 of a text as base64url without padding (RFC 4648 §5). */
function toBase64Url(text: string): string {
  const bytes = Array.from(new TextEncoder().encode(text), (one) => String.fromCharCode(one)).join('')
  return btoa(bytes).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '')
}
function fromBase64Url(text: string): string {
  const bytes = atob(text.replace(/-/g, '+').replace(/_/g, '/'))
  return new TextDecoder('utf-8', { fatal: true }).decode(Uint8Array.from(bytes, (one) => one.charCodeAt(0)))
}

export interface CursorLink {
  url: string
}

/** The paged result that templates receive if pages are by cursor. */
export interface CursorPage<Row> {
  by: 'cursor'
  items: Row[]
  size: number
  /** Null unless the query asks for a total. `isEstimated` is true if it is PostgreSQL's estimate. */
  total: number | null
  isEstimated: boolean
  previous: CursorLink | null
  next: CursorLink | null
  /** The first page, whose address has no cursor; null on the first page. */
  first: CursorLink | null
}
