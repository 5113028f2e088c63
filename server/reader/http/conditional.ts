/** Evaluates the preconditions of a request (RFC 9110 §13). */

export interface Validators {
  /** A strong entity tag, with its quotes. */
  etag?: string | undefined
  /** An HTTP date. */
  lastModified?: string | undefined
}

/** An opaque tag, weak or not (RFC 9110 §8.8.3). */
const TAGS = /(W\/)?("[\x21\x23-\x7e\x80-\xff]*")/g

/** Whether a list of entity tags has one that matches. Weak comparison ignores that a tag is weak (RFC 9110 §8.8.3.2). */
function hasTag(list: string, etag: string | undefined, comparison: 'strong' | 'weak'): boolean {
  if (list.trim() === '*') return true
  if (etag === undefined) return false
  for (const [, weak, tag] of list.matchAll(TAGS))
    if (tag === etag && (comparison === 'weak' || weak === undefined)) return true
  return false
}

/** Returns the seconds since 1970 of an HTTP date; undefined if it is not one, so that the field is ignored. */
function secondsOf(date: string | undefined): number | undefined {
  // RFC 9110 §5.6.7 has three formats. All begin with the name of a day.
  if (date === undefined || !/^(Mon|Tue|Wed|Thu|Fri|Sat|Sun)/.test(date)) return undefined
  const time = Date.parse(/GMT$|UTC$/.test(date) ? date : `${date} GMT`)
  return Number.isNaN(time) ? undefined : Math.floor(time / 1_000)
}

/**
 * Decides in the order of RFC 9110 §13.2.2 how a request is answered that would succeed otherwise.
 * @param field returns a field of the request by its name in lower case
 */
export function evaluatePreconditions(
  method: string,
  field: (name: string) => string | undefined,
  { etag, lastModified }: Validators,
): 200 | 304 | 412 {
  const ifMatch = field('if-match')
  if (ifMatch !== undefined) {
    if (!hasTag(ifMatch, etag, 'strong')) return 412
  } else {
    const since = secondsOf(field('if-unmodified-since'))
    if (since !== undefined && (secondsOf(lastModified) ?? since) > since) return 412
  }
  const isRead = method === 'GET' || method === 'HEAD'
  const ifNoneMatch = field('if-none-match')
  if (ifNoneMatch !== undefined) {
    if (hasTag(ifNoneMatch, etag, 'weak')) return isRead ? 304 : 412
  } else if (isRead) {
    const since = secondsOf(field('if-modified-since'))
    if (since !== undefined && (secondsOf(lastModified) ?? Infinity) <= since) return 304
  }
  return 200
}
