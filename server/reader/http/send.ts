/** Turns a response of the blog into one of HTTP: validators, preconditions and compression. */
import { hash } from 'node:crypto'
import type { BlogResponse } from '../responses.ts'
import { evaluatePreconditions } from './conditional.ts'
import {
  encodeText,
  isWorthEncoding,
  negotiateEncoding,
  type EncodedBodies,
  type Encoding,
} from './encoding.ts'

/** What is used of a request. */
export interface SentRequest {
  method: string
  /** Returns a field by its name in lower case. */
  field(name: string): string | undefined
}

/** Returns what identifies a text. */
export const tagOf = (text: string | Buffer): string => hash('sha256', text, 'base64url').slice(0, 22)

/** Returns the tag of the same content in another encoding, which is another representation (RFC 9110 §8.8.3.3). */
export const etagIn = (etag: string, encoding: Encoding): string =>
  encoding === 'identity' ? etag : etag.replace(/"$/, `-${encoding}"`)

/**
 * Returns a strong validator, that the encoding is negotiated, and the body as bytes, for a response that a reader can ask
 * for again. A walk shows the same headers as a browser gets.
 */
export function validator(
  response: BlogResponse,
  method: string,
): { headers?: { etag: string; vary?: string }; encoded?: EncodedBodies } {
  const { status, headers, body } = response
  // That of a copy has both, and that of a file the first.
  if (status !== 200 || (method !== 'GET' && method !== 'HEAD') || headers['etag'] !== undefined) return {}
  const bytes = Buffer.from(body)
  return { headers: { etag: `"${tagOf(bytes)}"`, ...varied(response) }, encoded: encodedBytes(bytes) }
}

/** A body that was turned into bytes once: for its tag, and to be sent. */
const encodedBytes = (bytes: Buffer): EncodedBodies => ({
  possible: ['gzip'],
  as: (encoding) => encodeText(bytes, encoding),
  plain: () => bytes,
})

/** Returns the `Vary` header of a response whose encoding is negotiated. */
export function varied(response: Pick<BlogResponse, 'headers' | 'body'>): { vary?: string } {
  const { vary } = response.headers
  if (!canEncode(response)) return {}
  return { vary: vary === undefined ? 'accept-encoding' : `${vary}, accept-encoding` }
}

const canEncode = ({ headers, body }: Pick<BlogResponse, 'headers' | 'body'>): boolean =>
  isText(headers['content-type']) && isWorthEncoding(body.length)

const isText = (type: string | undefined) =>
  type !== undefined && /^(text\/|application\/.*json|image\/svg)/.test(type)

/** Fields that a 304 has, if the response has them (RFC 9110 §15.4.5). */
const KEPT_BY_304 =
  /^(age|cache-control|cache-groups|cache-status|cdn-cache-control|content-location|date|etag|expires|last-modified|server-timing|vary)$/

/** @param response with a validator, if it can be asked for again */
export async function send(response: BlogResponse, { method, field }: SentRequest): Promise<Response> {
  const { status, headers, body, file, encoded } = response
  const plainTag = headers['etag']
  if (plainTag === undefined)
    return new Response(isEmpty(status, method) ? null : body, init(response, headers))
  const encoding = canEncode(response)
    ? negotiateEncoding(field('accept-encoding'), encoded?.possible ?? ['gzip'])
    : 'identity'
  const etag = etagIn(plainTag, encoding)
  let sent: Record<string, string> = etag === plainTag ? headers : { ...headers, etag }
  const decided = evaluatePreconditions(method, field, { etag, lastModified: headers['last-modified'] })
  if (decided === 412) return new Response(null, { status: 412, headers: { 'cache-control': 'no-store' } })
  if (decided === 304) {
    return new Response(null, init({ ...response, status: 304 }, keptBy304(sent)))
  }
  if (encoding !== 'identity') sent = { ...sent, 'content-encoding': encoding }
  if (isEmpty(status, method)) return new Response(null, init(response, sent))
  if (file) return new Response(await file(), init(response, sent))
  if (encoding === 'identity')
    return new Response((encoded?.plain() ?? body) as Uint8Array<ArrayBuffer>, init(response, sent))
  const bytes = await (encoded?.as(encoding) ?? encodeText(body, encoding))
  return new Response(bytes as Uint8Array<ArrayBuffer>, init(response, sent))
}

const unchanged = new WeakMap<object, Record<string, string>>()

/** Returns the fields of a 304. Copies have the same headers for many answers. */
function keptBy304(headers: Record<string, string>): Record<string, string> {
  let kept = unchanged.get(headers)
  if (!kept) {
    kept = Object.fromEntries(Object.entries(headers).filter(([name]) => KEPT_BY_304.test(name)))
    unchanged.set(headers, kept)
  }
  return kept
}

const isEmpty = (status: number, method: string): boolean => method === 'HEAD' || status === 204

/** Plain objects are sent faster than `Headers`, but cannot have a field twice. */
function init({ status, cookies = [] }: BlogResponse, headers: Record<string, string>): ResponseInit {
  const [cookie, ...more] = cookies
  if (cookie === undefined) return { status, headers }
  if (more.length === 0) return { status, headers: { ...headers, 'set-cookie': cookie } }
  const all = new Headers(headers)
  for (const one of cookies) all.append('set-cookie', one)
  return { status, headers: all }
}
