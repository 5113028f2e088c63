/** What differs between readers in the copy of a page: the token of its form, which is filled in for each answer. */
import { randomBytes } from 'node:crypto'
import type { PageAnswer } from '../../../core/caching/store.ts'
import type { ClockPort, CursorKeyPort, SitePort } from '../../publish/ports.ts'
import { formToken } from '../comments/token.ts'
import { visitorOf, writerCookie } from '../comments/visitor.ts'
import { encodeText, gzipParts, joinGzipParts, type EncodedBodies, type GzipParts } from '../http/encoding.ts'
import type { BlogRequest } from '../request.ts'

/** Stands for the token while a page is rendered for all readers. No text of the blog can contain it. */
export const PLACE = `token-${randomBytes(18).toString('hex')}`

export type FillingPorts = CursorKeyPort & ClockPort & SitePort

export interface Filled {
  body: string
  encoded: EncodedBodies
  cookies: string[]
}

/** The parts of copies as bytes and compressed, made when the first reader wants them. */
const compressed = new WeakMap<
  PageAnswer,
  { plain?: Buffer[]; br?: Promise<Buffer>; gzip?: Promise<Buffer>; parts?: Promise<GzipParts> }
>()

/** Fills the copy of a page for a reader. */
export function filled(ports: FillingPorts, request: BlogRequest, answer: PageAnswer): Filled {
  let known = compressed.get(answer)
  if (!known) compressed.set(answer, (known = {}))
  const made = known
  const [text = ''] = answer.parts
  if (answer.parts.length === 1)
    return {
      body: text,
      encoded: {
        possible: ['br', 'gzip'],
        as: (encoding) => (made[encoding] ??= encodeText(text, encoding)),
        plain: () => (made.plain ??= [Buffer.from(text)])[0] ?? Buffer.alloc(0),
      },
      cookies: [],
    }
  const { writer, isNew } = visitorOf(ports, request)
  const token = formToken(ports, request.id, { writer, client: request.client }, ports.clock())
  return {
    body: answer.parts.join(token),
    encoded: {
      // Brotli has no cheap way to put texts together.
      possible: ['gzip'],
      as: async () => joinGzipParts(await (made.parts ??= gzipParts(answer.parts)), token),
      plain: () => {
        const parts = (made.plain ??= answer.parts.map((one) => Buffer.from(one)))
        const between = Buffer.from(token)
        return Buffer.concat(parts.flatMap((one, index) => (index === 0 ? [one] : [between, one])))
      },
    },
    cookies: isNew ? [writerCookie(ports, writer, ports.site.definition.settings.origin)] : [],
  }
}
