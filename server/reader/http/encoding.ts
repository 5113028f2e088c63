/** Compressed bodies: negotiated with the client, and made once for each text. */
import { promisify } from 'node:util'
import zlib from 'node:zlib'
import Negotiator from 'negotiator'

export type Encoding = 'br' | 'gzip' | 'identity'

/** Bodies that can be sent compressed: those of a copy, which are compressed once. */
export interface EncodedBodies {
  /** Best first. */
  readonly possible: readonly Exclude<Encoding, 'identity'>[]
  as(encoding: Exclude<Encoding, 'identity'>): Promise<Uint8Array>
  /** Returns the body as it is, which is converted to bytes once. */
  plain(): Uint8Array
}

/** Shorter bodies are not worth compressing: with its headers, an answer fits into a packet anyway. */
const SHORTEST = 1_000
/** Above this, Brotli takes longer than a reader should wait for the first answer. */
const QUALITY = 6

const brotli = promisify(zlib.brotliCompress)
const gzip = promisify(zlib.gzip)
const deflate = promisify(zlib.deflateRaw)

/** The types of the library lack its second parameter, which decides between encodings of the same quality. */
interface Preferring {
  encoding(available: string[], options?: { preferred: string[] }): string | undefined
}

/**
 * Chooses the encoding of a body (RFC 9110 §12.5.3).
 * @param accepted the `Accept-Encoding` field; undefined if there is none
 * @param possible what the body can be sent as, beside itself, best first
 */
export function negotiateEncoding(
  accepted: string | undefined,
  possible: readonly Exclude<Encoding, 'identity'>[],
): Encoding {
  if (accepted === undefined || accepted === '') return 'identity'
  const available: Encoding[] = [...possible, 'identity']
  const negotiator: Preferring = new Negotiator({ headers: { 'accept-encoding': accepted } })
  const chosen = negotiator.encoding(available, { preferred: [...possible] })
  return available.find((one) => one === chosen) ?? 'identity'
}

export const isWorthEncoding = (length: number): boolean => length >= SHORTEST

/** Compresses a whole text. */
export async function encodeText(
  text: string | Buffer,
  encoding: Exclude<Encoding, 'identity'>,
): Promise<Buffer> {
  const bytes = typeof text === 'string' ? Buffer.from(text) : text
  return encoding === 'gzip'
    ? await gzip(bytes)
    : await brotli(bytes, {
        params: {
          [zlib.constants.BROTLI_PARAM_QUALITY]: QUALITY,
          [zlib.constants.BROTLI_PARAM_MODE]: zlib.constants.BROTLI_MODE_TEXT,
          [zlib.constants.BROTLI_PARAM_SIZE_HINT]: bytes.length,
        },
      })
}

/** Ten bytes: deflate, no name, no time, an unknown system (RFC 1952 §2.3). */
const GZIP_HEADER = Buffer.from([0x1f, 0x8b, 8, 0, 0, 0, 0, 0, 0, 255])

/** A text with places to fill in, of which everything else is already compressed. */
export interface GzipParts {
  /** The parts as they are, for the checksum. */
  plain: readonly Buffer[]
  /** The parts, compressed. All but the last end at a byte boundary, so that blocks can follow. */
  deflated: readonly Buffer[]
}

/** Compresses the parts of a text, so that texts can be put between them without compressing anything again. */
export async function gzipParts(parts: readonly string[]): Promise<GzipParts> {
  const plain = parts.map((one) => Buffer.from(one))
  const deflated = await Promise.all(
    plain.map((one, index) =>
      deflate(one, index === plain.length - 1 ? {} : { finishFlush: zlib.constants.Z_SYNC_FLUSH }),
    ),
  )
  return { plain, deflated }
}

/** Returns a stored block that is not the last one (RFC 1951 §3.2.4). */
function storedBlock(bytes: Buffer): Buffer {
  const block = Buffer.alloc(5)
  block.writeUInt16LE(bytes.length, 1)
  block.writeUInt16LE(0xffff ^ bytes.length, 3)
  return block
}

/**
 * Returns the gzip file (RFC 1952) of the parts with texts between them.
 * @param texts one between each two parts, each of at most 65,535 bytes
 */
export function joinGzipParts({ plain, deflated }: GzipParts, texts: readonly string[]): Buffer {
  const pieces: Buffer[] = [GZIP_HEADER]
  let checksum = 0
  let length = 0
  const count = (bytes: Buffer) => {
    // Without any bytes, it would start again.
    if (bytes.length > 0) checksum = zlib.crc32(bytes, checksum)
    length += bytes.length
  }
  for (const [index, part] of deflated.entries()) {
    if (index > 0) {
      const filled = Buffer.from(texts[index - 1] ?? '')
      pieces.push(storedBlock(filled), filled)
      count(filled)
    }
    pieces.push(part)
    count(plain[index] ?? Buffer.alloc(0))
  }
  const trailer = Buffer.alloc(8)
  trailer.writeUInt32LE(checksum, 0)
  trailer.writeUInt32LE(length >>> 0, 4)
  pieces.push(trailer)
  return Buffer.concat(pieces)
}
