/** What differs between readers in the copy of a page: the token of its form, which is filled in for each answer. */
import { randomBytes } from 'node:crypto'
import type { Copy, PageAnswer } from '../../../core/caching/store.ts'
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

/** The forms of a copy's content that were made when the first reader wanted them. */
interface Forms {
  plain?: Buffer[]
  br?: Promise<Buffer>
  gzip?: Promise<Buffer>
  parts?: Promise<GzipParts>
}
const forms = new WeakMap<PageAnswer, Forms>()

/**
 * Fills the copy of a page for a reader.
 * @param grown called with the bytes of a form of the content that is kept with the copy
 */
export function filled(
  ports: FillingPorts,
  request: BlogRequest,
  { content, answer }: Copy & { answer: PageAnswer },
  grown: (bytes: number) => void,
): Filled {
  let known = forms.get(answer)
  if (!known) forms.set(answer, (known = {}))
  const made = known
  const plainParts = () => {
    if (!made.plain) {
      made.plain = content.map((one) => Buffer.from(one))
      grown(lengthOfAll(made.plain))
    }
    return made.plain
  }
  const [text = ''] = content
  if (content.length === 1)
    return {
      body: text,
      encoded: {
        possible: ['br', 'gzip'],
        as: (encoding) =>
          (made[encoding] ??= encodeText(text, encoding).then((bytes) => {
            grown(bytes.length)
            return bytes
          })),
        plain: () => plainParts()[0] ?? Buffer.alloc(0),
      },
      cookies: [],
    }
  const { writer, isNew } = visitorOf(ports, request)
  const token = formToken(ports, request.id, { writer, client: request.client }, ports.clock())
  return {
    body: content.join(token),
    encoded: {
      // Brotli has no cheap way to put texts together.
      possible: ['gzip'],
      as: async () => joinGzipParts(await (made.parts ??= gzipped(content, grown)), token),
      plain: () => {
        const between = Buffer.from(token)
        return Buffer.concat(plainParts().flatMap((one, index) => (index === 0 ? [one] : [between, one])))
      },
    },
    cookies: isNew ? [writerCookie(ports, writer, ports.site.definition.settings.origin)] : [],
  }
}

const lengthOfAll = (all: readonly Uint8Array[]): number => all.reduce((sum, one) => sum + one.length, 0)

async function gzipped(content: readonly string[], grown: (bytes: number) => void): Promise<GzipParts> {
  const parts = await gzipParts(content)
  grown(lengthOfAll(parts.plain) + lengthOfAll(parts.deflated))
  return parts
}
