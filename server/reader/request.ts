/** A request, parsed once into a value that everything else works with. */
import { randomUUID } from 'node:crypto'
import { parse as parseCookies } from 'hono/utils/cookie'
import Negotiator from 'negotiator'

/** The maximum size of a form, in bytes. */
export const FORM_LIMIT = 64 * 1024

export interface BlogRequest {
  readonly id: string
  readonly method: string
  /** Path and query string as sent. */
  readonly target: string
  readonly as: 'reader' | 'author'
  /** The preferred type of the response, negotiated from `Accept`. */
  readonly accepts: 'html' | 'json'
  /** By name. */
  readonly cookies: Readonly<Record<string, string>>
  /** Where the request came from; decides whether a form is accepted. `own`: from inside the process. */
  readonly origin: RequestOrigin | 'own'
  /** The client's address; null inside the process. */
  readonly client: string | null
  /** Whether a plain 404 is enough, because the caller only needs the status. */
  readonly sparing: boolean
  /** Whether no reader waits for it, so that it is not counted as a reader's request. */
  readonly isBackground: boolean
  /** Reads the body as a form. Only actions call it. */
  form(): Promise<FormReading>
}

export interface RequestOrigin {
  /** The `Origin` header (RFC 6454). Browsers always send it with POST. */
  readonly origin: string | undefined
  readonly host: string | undefined
  /** The `Sec-Fetch-Site` header. */
  readonly fetchSite: string | undefined
}

export type FormReading =
  | { ok: true; fields: Record<string, string | undefined> }
  | { ok: false; status: 400 | 413 | 415; reason: FormProblem }

/** The message that says why a form could not be read. */
export type FormProblem = 'form-type-text' | 'form-too-large-text' | 'form-incomplete-text'

/**
 * Parses an HTTP request.
 * @param target as sent, where it is known: the URL of `raw` has no dot segments any more
 * @param header returns a field by its name in lower case
 */
export function readRequest(
  raw: Request,
  client: string | null = null,
  target = targetOf(raw.url),
  header: (name: string) => string | undefined = (name) => raw.headers.get(name) ?? undefined,
): BlogRequest {
  return {
    id: randomUUID(),
    method: raw.method,
    target: (target.startsWith('/') ? target : targetOf(target)).replace(/#.*$/, ''),
    as: 'reader',
    accepts: negotiateType(header('accept')),
    cookies: readCookies(header('cookie')),
    origin: {
      origin: header('origin'),
      host: header('host'),
      fetchSite: header('sec-fetch-site'),
    },
    client,
    sparing: false,
    isBackground: false,
    form: () => readForm(raw),
  }
}

/** The maximum length of the cookies that are read. */
const COOKIE_LIMIT = 8_000

const readCookies = (header: string | undefined): Record<string, string> =>
  header === undefined || header.length > COOKIE_LIMIT ? {} : parseCookies(header)

/** Returns path and query string of an absolute URL. */
function targetOf(url: string): string {
  const afterOrigin = url.indexOf('/', url.indexOf('://') + 3)
  return afterOrigin === -1 ? '/' : url.slice(afterOrigin)
}

export type InternalOptions = Partial<
  Pick<BlogRequest, 'id' | 'method' | 'as' | 'accepts' | 'sparing' | 'cookies' | 'isBackground'>
>

/** Returns a request from inside the process: for previews, walks, checks and benchmarks. */
export const internalRequest = (target: string, options: InternalOptions = {}): BlogRequest => ({
  id: randomUUID(),
  method: 'GET',
  as: 'reader',
  accepts: 'html',
  sparing: false,
  isBackground: false,
  cookies: {},
  ...options,
  target,
  origin: { origin: undefined, host: undefined, fetchSite: undefined },
  client: null,
  form: () => Promise.resolve({ ok: false, status: 415, reason: 'form-type-text' }),
})

/** Returns a form without a name and a text, and with addresses that are none: it is shown again, with its errors, and changes nothing. */
export const refusedForm = (path: string): BlogRequest => ({
  ...internalRequest(path, { method: 'POST' }),
  origin: 'own',
  form: () => Promise.resolve({ ok: true, fields: { email: 'no address', site: 'no address' } }),
})

const TYPES = { 'text/html': 'html', 'application/json': 'json' } as const

/** Returns `json` only if it is preferred (RFC 9110 §12.5.1). Without a preference, the response is a page. */
function negotiateType(accept: string | undefined): 'html' | 'json' {
  if (accept === undefined || accept.length > 1_000) return 'html'
  const preferred = new Negotiator({ headers: { accept } }).mediaType(Object.keys(TYPES))
  return TYPES[preferred as keyof typeof TYPES] ?? 'html'
}

/** @param multipart whether the form may also be sent as multipart/form-data (RFC 7578) */
export async function readForm(raw: Request, { multipart = false } = {}): Promise<FormReading> {
  const type = raw.headers.get('content-type') ?? ''
  const isMultipart = multipart && type.startsWith('multipart/form-data')
  if (!isMultipart && !type.startsWith('application/x-www-form-urlencoded'))
    return { ok: false, status: 415, reason: 'form-type-text' }
  const tooLong: FormReading = {
    ok: false,
    status: 413,
    reason: 'form-too-large-text',
  }
  if (Number(raw.headers.get('content-length') ?? 0) > FORM_LIMIT) return tooLong
  const chunks: Uint8Array[] = []
  let length = 0
  try {
    for await (const chunk of raw.body ?? []) {
      length += chunk.byteLength
      if (length > FORM_LIMIT) return tooLong
      chunks.push(chunk)
    }
  } catch {
    return { ok: false, status: 400, reason: 'form-incomplete-text' }
  }
  if (isMultipart) {
    const parts = await new Response(Buffer.concat(chunks), { headers: { 'content-type': type } })
      .formData()
      .catch(() => undefined)
    if (!parts) return { ok: false, status: 400, reason: 'form-incomplete-text' }
    const texts = [...parts].filter((part): part is [string, string] => typeof part[1] === 'string')
    return { ok: true, fields: Object.fromEntries(texts) }
  }
  const text = Buffer.concat(chunks).toString('utf8')
  return { ok: true, fields: Object.fromEntries(new URLSearchParams(text)) }
}
