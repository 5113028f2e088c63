/** Sends a file, such as an image: validators, preconditions, compression, and parts of it (RFC 9110 §14). */
import { LRUCache } from 'lru-cache'
import parseRange from 'range-parser'
import { evaluatePreconditions } from './conditional.ts'
import { encodeText, isWorthEncoding, negotiateEncoding, type Encoding } from './encoding.ts'
import { etagIn, type SentRequest } from './send.ts'

export interface SentFile {
  bytes: Uint8Array<ArrayBuffer>
  /** A strong validator of the bytes as they are, with its quotes. */
  etag: string
  /** Of the answer, with the type of the content. */
  headers: Readonly<Record<string, string>>
}

/** Compressed files of all kinds together, in bytes. */
const MOST_COMPRESSED = 16 * 1024 * 1024
const compressed = new LRUCache<string, Uint8Array<ArrayBuffer>>({
  maxSize: MOST_COMPRESSED,
  sizeCalculation: (bytes) => bytes.length + 200,
})

/** Formats that are not compressed already. */
const isCompressible = (type: string | undefined): boolean =>
  type !== undefined && /^(text\/|image\/svg|image\/bmp|application\/(json|javascript))/.test(type)

export async function sendFile(
  { bytes, etag, headers }: SentFile,
  { method, field }: SentRequest,
): Promise<Response> {
  const canEncode = isCompressible(headers['content-type']) && isWorthEncoding(bytes.length)
  const encoding = canEncode ? negotiateEncoding(field('accept-encoding'), ['br', 'gzip']) : 'identity'
  const validator = etagIn(etag, encoding)
  const sent: Record<string, string> = {
    ...headers,
    etag: validator,
    'accept-ranges': 'bytes',
    ...(canEncode ? { vary: 'accept-encoding' } : {}),
  }
  const decided = evaluatePreconditions(method, field, { etag: validator })
  if (decided === 412) return new Response(null, { status: 412 })
  if (decided === 304) {
    const { 'content-type': _, ...kept } = sent
    return new Response(null, { status: 304, headers: kept })
  }
  const whole = encoding === 'identity' ? bytes : await encoded(bytes, etag, encoding)
  if (encoding !== 'identity') sent['content-encoding'] = encoding
  const range = method === 'GET' ? rangeOf(field, validator, whole.length) : undefined
  if (range === 'unsatisfiable')
    return new Response(null, {
      status: 416,
      headers: { 'content-range': `bytes */${whole.length}`, 'accept-ranges': 'bytes' },
    })
  if (range)
    return new Response(whole.slice(range.start, range.end + 1), {
      status: 206,
      headers: { ...sent, 'content-range': `bytes ${range.start}-${range.end}/${whole.length}` },
    })
  return new Response(method === 'HEAD' ? null : whole, {
    headers: { ...sent, 'content-length': String(whole.length) },
  })
}

/** Returns the part that is asked for; undefined for the whole: without a range, with several, or with one that is not valid. */
function rangeOf(
  field: SentRequest['field'],
  etag: string,
  length: number,
): { start: number; end: number } | 'unsatisfiable' | undefined {
  const wanted = field('range')
  // A part of another version would not fit (RFC 9110 §13.1.5): the comparison is strong, and there is no date.
  const only = field('if-range')
  if (wanted === undefined || (only !== undefined && only !== etag)) return undefined
  const parsed = parseRange(length, wanted)
  if (parsed === -1) return 'unsatisfiable'
  if (parsed === -2 || parsed.type !== 'bytes' || parsed.length !== 1) return undefined
  return parsed[0]
}

async function encoded(
  bytes: Uint8Array<ArrayBuffer>,
  etag: string,
  encoding: Exclude<Encoding, 'identity'>,
): Promise<Uint8Array<ArrayBuffer>> {
  const key = `${etag} ${encoding}`
  const known = compressed.get(key)
  if (known) return known
  const made = new Uint8Array(await encodeText(Buffer.from(bytes), encoding))
  compressed.set(key, made)
  return made
}
