/**
 * Cursors: pages that begin after a row instead of at a place (“keyset pagination”, common practice). What was shown
 * is neither repeated nor left out when rows come and go, and every page costs the same.
 */

/** Where a page begins: the values that a row is ordered by, as PostgreSQL writes them; null where it has none. */
export interface Cursor {
  toward: 'after' | 'before'
  values: readonly (string | null)[]
}

/** Longest cursor that is read, in characters. */
const CURSOR_LIMIT = 4_000

/** Signs a text with a key that only the server has: the same text gives the same signature, of base64url characters. */
export type Sign = (text: string) => string

const SHORT = { after: 'a', before: 'b' } as const

/**
 * A cursor as a text for addresses; it is to be passed on, not to be read.
 * @param scope what it is for: a cursor of another listing, or of another order, is refused
 */
export function writeCursor(cursor: Cursor, scope: string, sign: Sign): string {
  const body = toBase64Url(JSON.stringify([SHORT[cursor.toward], ...cursor.values]))
  return `${body}.${sign(signed(scope, body))}`
}

/** Length first, so that no scope and body can be read as another scope and body. */
const signed = (scope: string, body: string) => `${scope.length}:${scope}${body}`

/** @returns the cursor, or in words why the text is none */
export function readCursor(
  text: string,
  scope: string,
  sign: Sign,
): { ok: true; cursor: Cursor } | { ok: false; why: string } {
  const refused = (why: string) => ({ ok: false as const, why })
  if (text.length > CURSOR_LIMIT) return refused('it is too long for a cursor')
  const [body = '', signature, ...more] = text.split('.')
  if (signature === undefined || more.length > 0 || !/^[A-Za-z0-9_-]+$/.test(body))
    return refused('it is not a cursor')
  if (!sameText(signature, sign(signed(scope, body))))
    return refused('it was not made here for this listing, or it was changed')
  try {
    const [toward, ...values] = JSON.parse(fromBase64Url(body)) as [string, ...(string | null)[]]
    return { ok: true, cursor: { toward: toward === SHORT.before ? 'before' : 'after', values } }
  } catch {
    return refused('it is not a cursor')
  }
}

/** In the same time wherever they differ. */
function sameText(a: string, b: string): boolean {
  let difference = a.length ^ b.length
  for (let index = 0; index < a.length; index++)
    difference |= a.charCodeAt(index) ^ b.charCodeAt(index % Math.max(1, b.length))
  return difference === 0
}

/** RFC 4648 §5, without padding, of the text's UTF-8. */
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

/** The paged result that templates see where pages go by cursor. */
export interface CursorPage<Row> {
  by: 'cursor'
  items: Row[]
  size: number
  /** Where the listing says so; `isEstimated` when it is PostgreSQL's estimate. */
  total: number | null
  isEstimated: boolean
  previous: CursorLink | null
  next: CursorLink | null
  /** The beginning, whose address has no cursor; null there. */
  first: CursorLink | null
}
