/** Shared copies as texts, signed with a key of the blog. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import { parse, stringify } from 'devalue'
import type { SharedCopy } from '../../core/caching/shared-copies.ts'

/** Raised when the shape of a copy changes: others are not read. */
const FORMAT = '1'
const SIGNATURE = 43

/** Copies of one blog: texts of another one, or of another program, are not read. */
export class Writing {
  readonly #key: Buffer
  /** Begins the keys of the blog. */
  readonly prefix: string

  /** @param secret of the blog */
  constructor(secret: Uint8Array) {
    this.#key = createHmac('sha256', secret).update(`shared copies ${FORMAT}`).digest()
    this.prefix = `esquina:${this.#hash('blog').slice(0, 12)}:`
  }

  /** Returns the key under which a copy is stored, which does not tell what it is of. */
  keyOf = (key: string): string => `${this.prefix}${this.#hash(`key ${key}`)}`

  write(key: string, shared: SharedCopy, lifetime: number): string {
    const text = stringify({ shared, lifetime })
    return `${this.#sign(key, text)}${text}`
  }

  /** @returns undefined unless this blog has written it, under this key */
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
