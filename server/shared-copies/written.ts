/** Serialises shared copies, signed with a key of the blog. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import { parse, stringify } from 'devalue'
import type { SharedCopy } from '../../core/caching/shared-copies.ts'

/** The version of the format. Other versions are not read. */
const FORMAT = '1'
const SIGNATURE = 43

/** Serialises the copies of one blog. Others cannot be read. */
export class Writing {
  readonly #key: Buffer
  /** The prefix of all keys of the blog. */
  readonly prefix: string

  /** @param secret the blog's secret */
  constructor(secret: Uint8Array) {
    this.#key = createHmac('sha256', secret).update(`shared copies ${FORMAT}`).digest()
    this.prefix = `esquina:${this.#hash('blog').slice(0, 12)}:`
  }

  /** Returns the key in the store, which does not reveal the address. */
  keyOf = (key: string): string => `${this.prefix}${this.#hash(`key ${key}`)}`

  write(key: string, shared: SharedCopy, lifetime: number): string {
    const text = stringify({ shared, lifetime })
    return `${this.#sign(key, text)}${text}`
  }

  /** Parses a copy. @returns undefined unless this blog has signed it for this key */
  read(key: string, written: string): { shared: SharedCopy; lifetime: number } | undefined {
    const [signature, text] = [written.slice(0, SIGNATURE), written.slice(SIGNATURE)]
    const [given, wanted] = [Buffer.from(signature), Buffer.from(this.#sign(key, text))]
    if (given.length !== wanted.length || !timingSafeEqual(given, wanted)) return undefined
    return parse(text) as { shared: SharedCopy; lifetime: number }
  }

  #sign(key: string, text: string): string {
    return this.#hash(`copy ${key.length} ${key}${text}`)
  }

  #hash(text: string): string {
    return createHmac('sha256', this.#key).update(text).digest('base64url')
  }
}
