/** Fills the copy of a page in for a reader: the token of its form, and what the form begins with. */
import { escapeHtml } from '../../../core/content/html/safe-html.ts'
import type { Copy, PageAnswer } from '../../../core/caching/store.ts'
import type { ClockPort, CursorKeyPort, SitePort } from '../../publish/ports.ts'
import { formToken } from '../comments/token.ts'
import { visitorOf, writerCookie } from '../comments/visitor.ts'
import { encodeText, gzipParts, joinGzipParts, type EncodedBodies, type GzipParts } from '../http/encoding.ts'
import type { BlogRequest } from '../request.ts'

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
  /** Of a copy in which nothing is filled in: the same for everybody. */
  whole?: Filled
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
  if (known.whole) return known.whole
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
    return (made.whole = {
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
    })
  const { writer, isNew, remembered } = visitorOf(ports, request)
  const token = formToken(ports, request.id, { writer, client: request.client }, ports.clock())
  const texts = answer.places.map((place) =>
    place === 'token' ? token : escapeHtml(remembered[place as keyof typeof remembered] ?? ''),
  )
  return {
    body: content.map((one, index) => (index === 0 ? one : `${texts[index - 1]}${one}`)).join(''),
    encoded: {
      // Brotli has no cheap way to put texts together.
      possible: ['gzip'],
      as: async () => joinGzipParts(await (made.parts ??= gzipped(content, grown)), texts),
      plain: () =>
        Buffer.concat(
          plainParts().flatMap((one, index) =>
            index === 0 ? [one] : [Buffer.from(texts[index - 1] ?? ''), one],
          ),
        ),
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
