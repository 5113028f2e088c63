/** The blog's responses, with the headers of each kind. */
import type { Definition } from '../../core/blog/definition.ts'
import type { FragmentOutcome } from '../../core/caching/session.ts'
import { originsOf } from '../../core/shapes/embeds.ts'
import type { EncodedBodies } from './http/encoding.ts'
import type { SubmissionResult } from './comments/submission-step.ts'
import { PLAIN_STYLE } from './plain-pages.ts'

export interface BlogResponse {
  status: number
  headers: Record<string, string>
  body: string
  /** Makes the body if it is no text, once it is sent. Then `body` says what it is, and a validator is among the headers. */
  file?: () => Promise<Uint8Array<ArrayBuffer>>
  /** The name of the route that answered, for the list of recent requests. */
  route: string | null
  fragments: readonly FragmentOutcome[]
  /** Whether a copy of the whole page answered; absent where none is kept. */
  copy?: 'hit' | 'miss' | 'bypass'
  /** Milliseconds that a rendering has waited for queries, and has used for templates. */
  took?: { queries: number; templates: number }
  /** The body, compressed. */
  encoded?: EncodedBodies
  /** Values of `Set-Cookie`. */
  cookies?: readonly string[]
  /** What became of a comment form, if the request was one. */
  submission?: SubmissionResult
}

/** The content security policy of pages: no code, styles or frames of other sites. */
const OWN_POLICY =
  "default-src 'none'; img-src 'self' data: https:; style-src 'self'; script-src 'self'; font-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"

/**
 * Returns the content security policy of a blog's pages, which allows the frames of its embeds.
 * @param service the origin of a service whose script and frame the page has
 */
export function pagePolicy({ htmlRules }: Pick<Definition, 'htmlRules'>, service?: string): string {
  const frames = [
    ...new Set([...originsOf(htmlRules.embeds ?? []), ...(service === undefined ? [] : [service])]),
  ]
  const policy =
    service === undefined
      ? OWN_POLICY
      : OWN_POLICY.replace("script-src 'self'", `script-src 'self' ${service}`)
  return frames.length === 0 ? policy : `${policy}; frame-src ${frames.join(' ')}`
}

type PageHeaders = Record<
  'content-type' | 'cache-control' | 'content-security-policy' | 'x-content-type-options' | 'referrer-policy',
  string
>
const headersOf = (policy: string): PageHeaders => ({
  'content-type': 'text/html; charset=utf-8',
  'cache-control': 'no-cache',
  'content-security-policy': policy,
  'x-content-type-options': 'nosniff',
  'referrer-policy': 'strict-origin-when-cross-origin',
})

const known = new WeakMap<object, PageHeaders>()

/** Returns the headers of a blog's pages. */
export function pageHeaders(definition: Definition): PageHeaders {
  let headers = known.get(definition)
  if (!headers) known.set(definition, (headers = headersOf(pagePolicy(definition))))
  return headers
}

/** What is for one reader is stored by no shared cache (RFC 9111 §5.2.2.7). */
export const PRIVATE = { 'cache-control': 'private, no-cache' }

/** Headers of pages without a template. */
export const PLAIN_HEADERS = {
  ...headersOf(OWN_POLICY),
  'content-security-policy': `default-src 'none'; style-src ${PLAIN_STYLE}; base-uri 'none'; frame-ancestors 'none'`,
}

/** Headers of plain pages with a form. */
export const PLAIN_FORM_HEADERS = {
  ...PLAIN_HEADERS,
  'content-security-policy': `${PLAIN_HEADERS['content-security-policy']}; form-action 'self'`,
}

export function pageResponse(
  definition: Definition,
  status: number,
  html: string,
  {
    fragments,
    cookies,
    embedded,
    cacheControl,
    took,
  }: {
    fragments: readonly FragmentOutcome[]
    cookies: readonly string[]
    /** The origin of a service whose script and frame the page has. */
    embedded: string | undefined
    /** What browsers and shared caches may do with the page. */
    cacheControl: string
    took: { queries: number; templates: number }
  },
  route: string | null = null,
): BlogResponse {
  const cacheStatus = describeFragments(fragments)
  return {
    status,
    headers: {
      ...pageHeaders(definition),
      'cache-control': cacheControl,
      ...(embedded === undefined ? {} : { 'content-security-policy': pagePolicy(definition, embedded) }),
      ...(cacheStatus === undefined ? {} : { 'cache-status': cacheStatus }),
    },
    body: html,
    route,
    fragments,
    took,
    ...(cookies.length > 0 ? { cookies } : {}),
  }
}

/** Returns the `Cache-Status` header (RFC 9211) of a page: its fragments first, which are nearer to the origin. */
export function cacheStatus(fragments: readonly FragmentOutcome[], page: string): { 'cache-status': string } {
  const ofFragments = describeFragments(fragments)
  return { 'cache-status': `${ofFragments === undefined ? '' : `${ofFragments}, `}esquina-pages; ${page}` }
}

/** Returns the headers of an answer from a copy. @param age in seconds @param ttl in seconds @param detail why an old one answers */
export const hitFields = (age: number, ttl: number, detail?: string): Record<string, string> => ({
  age: String(age),
  'cache-status': `esquina-pages; hit; ttl=${ttl}${detail === undefined ? '' : `; detail="${detail}"`}`,
  'server-timing': serverTiming({ copy: 'hit' }),
})

/** Returns the `Server-Timing` header of a response. @param total in milliseconds; undefined for a copy, which takes no time */
export function serverTiming({ copy, took }: Pick<BlogResponse, 'copy' | 'took'>, total?: number): string {
  const milliseconds = (one: number) => one.toFixed(1)
  return [
    ...(copy === undefined ? [] : [`copy;desc=${copy}`]),
    ...(took
      ? [`queries;dur=${milliseconds(took.queries)}`, `templates;dur=${milliseconds(took.templates)}`]
      : []),
    ...(total === undefined ? [] : [`total;dur=${milliseconds(total)}`]),
  ].join(', ')
}

/** Describes the use of the fragment store as `Cache-Status` (RFC 9211): `hit` if every fragment was stored. */
function describeFragments(fragments: readonly FragmentOutcome[]): string | undefined {
  if (fragments.length === 0) return undefined
  const hits = fragments.filter((one) => one.outcome === 'hit')
  const detail = `detail="${hits.length} of ${fragments.length} fragments"`
  if (hits.length === fragments.length) {
    const ttl = Math.floor(Math.min(...hits.map((one) => one.remainingMilliseconds)) / 1000)
    return `esquina-fragments; hit; ttl=${ttl}; ${detail}`
  }
  if (fragments.some((one) => one.outcome === 'bypass')) return `esquina-fragments; fwd=bypass; ${detail}`
  const stored = fragments.every((one) => one.stored) ? '; stored' : ''
  return `esquina-fragments; fwd=${hits.length === 0 ? 'miss' : 'partial'}${stored}; ${detail}`
}

/** Returns the cookies that a browser sends back after a response, by name. */
export const cookiesAfter = ({ cookies = [] }: Pick<BlogResponse, 'cookies'>): Record<string, string> =>
  Object.fromEntries(
    cookies.map((one) => {
      const [pair = ''] = one.split(';')
      const at = pair.indexOf('=')
      return [pair.slice(0, at), decodeURIComponent(pair.slice(at + 1))]
    }),
  )

export const redirect = (
  status: 301 | 302 | 303 | 307 | 308,
  location: string,
  route: string | null,
): BlogResponse => ({
  status,
  // A browser asks again, so changing a redirect back cannot make a loop with one that it remembers.
  headers: { location, 'cache-control': status === 301 || status === 308 ? 'no-cache' : 'no-store' },
  body: '',
  route,
  fragments: [],
})
