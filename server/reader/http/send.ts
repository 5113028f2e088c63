/** Turns a response of the blog into one of HTTP: validators, preconditions and compression. */
import { createHash } from 'node:crypto'
import type { BlogResponse } from '../responses.ts'
import { evaluatePreconditions } from './conditional.ts'
import { encodeText, isWorthEncoding, negotiateEncoding, type Encoding } from './encoding.ts'

/** What is used of a request. */
export interface SentRequest {
  method: string
  /** Returns a field by its name in lower case. */
  field(name: string): string | undefined
}

/** Returns a strong entity tag for a text. */
export const etagOf = (text: string): string =>
  `"${createHash('sha256').update(text).digest('base64url').slice(0, 22)}"`

/** Returns the tag of the same content in another encoding, which is another representation (RFC 9110 §8.8.3.3). */
const etagIn = (etag: string, encoding: Encoding): string =>
  encoding === 'identity' ? etag : etag.replace(/"$/, `-${encoding}"`)

/**
 * Adds a strong validator, and that the encoding is negotiated, to a response that a reader can ask for again. A walk shows
 * the same headers as a browser gets.
 */
export function validated(response: BlogResponse, method: string): BlogResponse {
  const { status, headers, body } = response
  if (status !== 200 || (method !== 'GET' && method !== 'HEAD')) return response
  const { vary } = headers
  const added = canEncode(response)
    ? { vary: vary === undefined ? 'accept-encoding' : `${vary}, accept-encoding` }
    : {}
  return { ...response, headers: { ...headers, etag: headers['etag'] ?? etagOf(body), ...added } }
}

const canEncode = ({ headers, body }: BlogResponse): boolean =>
  isText(headers['content-type']) && isWorthEncoding(body.length)

const isText = (type: string | undefined) =>
  type !== undefined && /^(text\/|application\/.*json|image\/svg)/.test(type)

/** Fields that a 304 has, if the response has them (RFC 9110 §15.4.5). */
const KEPT_BY_304 =
  /^(age|cache-control|cache-status|content-location|date|etag|expires|last-modified|server-timing|vary)$/

/** @param response with a validator, if it can be asked for again */
export async function send(response: BlogResponse, { method, field }: SentRequest): Promise<Response> {
  const { status, headers, body, cookies = [], encoded } = response
  const validator = headers['etag']
  const encoding =
    validator !== undefined && canEncode(response)
      ? negotiateEncoding(field('accept-encoding'), encoded?.possible ?? ['gzip'])
      : 'identity'
  const sent = new Headers(headers)
  for (const cookie of cookies) sent.append('set-cookie', cookie)
  if (validator !== undefined) {
    const etag = etagIn(validator, encoding)
    sent.set('etag', etag)
    const decided = evaluatePreconditions(method, field, { etag, lastModified: headers['last-modified'] })
    if (decided === 304) {
      for (const name of [...sent.keys()])
        if (!KEPT_BY_304.test(name) && name !== 'set-cookie') sent.delete(name)
      return new Response(null, { status: 304, headers: sent })
    }
    if (decided === 412) return new Response(null, { status: 412, headers: { 'cache-control': 'no-store' } })
  }
  if (encoding !== 'identity') sent.set('content-encoding', encoding)
  if (method === 'HEAD' || status === 204) return new Response(null, { status, headers: sent })
  const bytes =
    encoding === 'identity' ? undefined : await (encoded?.as(encoding) ?? encodeText(body, encoding))
  return new Response(bytes === undefined ? body : new Uint8Array(bytes), { status, headers: sent })
}
