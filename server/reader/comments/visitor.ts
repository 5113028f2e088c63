/** Who sends a request, as far as comments need to know: by a signed cookie, without a name or an account. */
import { isIPv6 } from 'node:net'
import { serialize } from 'hono/utils/cookie'
import type { CommentField } from '../../../core/comments/rules.ts'
import { cleanLine } from '../../../core/comments/text.ts'
import type { CursorKeyPort } from '../../publish/ports.ts'
import type { BlogRequest } from '../request.ts'
import { isSigned, signFor } from '../secret.ts'

/** Identifies a browser. Only this server can make it, and scripts cannot read it. */
const WRITER = 'writer'
/** Marks the cookie of a browser that has sent a comment. */
const COMMENTED = 'c'
/** What the writer has chosen to be filled in the next time. */
const REMEMBERED = 'commenter'
const YEAR = 365 * 86_400

export interface Visitor {
  /** From the cookie, or a new one that has to be sent. */
  writer: string
  isNew: boolean
  /** Whether the browser has sent a comment, so that pages may differ for it. */
  hasCommented: boolean
  remembered: Partial<Record<CommentField, string>>
}

export function visitorOf({ cursorKey }: CursorKeyPort, { cookies, id }: BlogRequest): Visitor {
  const sign = signFor(cursorKey, 'writer')
  const [writer = '', signature = '', mark] = (cookies[WRITER] ?? '').split('.')
  const isKnown = /^[\w-]{20,30}$/.test(writer) && isSigned(sign, writer, signature)
  return {
    // Derived from the request, so that the same request always gives the same page.
    writer: isKnown ? writer : signFor(cursorKey, 'new writer')(id),
    isNew: !isKnown,
    hasCommented: isKnown && mark === COMMENTED,
    remembered: readRemembered(cookies[REMEMBERED]),
  }
}

function readRemembered(cookie: string | undefined): Visitor['remembered'] {
  try {
    const value: unknown = JSON.parse(Buffer.from(cookie ?? '', 'base64url').toString('utf8'))
    const text = (field: CommentField) => {
      const one = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[field] : ''
      return typeof one === 'string' ? cleanLine(one.slice(0, 500)) : ''
    }
    return { name: text('name'), email: text('email'), site: text('site') }
  } catch {
    return {}
  }
}

const options = (isSecure: boolean) =>
  ({ httpOnly: true, sameSite: 'Lax', path: '/', secure: isSecure, maxAge: YEAR }) as const

/**
 * Returns the header that makes a browser known.
 * @param origin the blog's public one
 * @param hasCommented whether it has sent a comment
 */
export const writerCookie = (
  { cursorKey }: CursorKeyPort,
  writer: string,
  origin: string | undefined,
  hasCommented = false,
): string =>
  serialize(
    WRITER,
    [writer, signFor(cursorKey, 'writer')(writer), ...(hasCommented ? [COMMENTED] : [])].join('.'),
    options(isHttps(origin)),
  )

/** Returns the header that keeps what is filled in the next time, or that deletes it. */
export const rememberedCookie = (
  values: Readonly<Record<CommentField, string>> | null,
  origin: string | undefined,
): string =>
  serialize(
    REMEMBERED,
    values === null ? '' : Buffer.from(JSON.stringify(values)).toString('base64url'),
    values === null ? { ...options(isHttps(origin)), maxAge: 0 } : options(isHttps(origin)),
  )

const isHttps = (origin: string | undefined) => origin?.startsWith('https://') === true

/** Returns what is stored of a writer: who has the row cannot make the cookie. */
export const writerHash = ({ cursorKey }: CursorKeyPort, writer: string): string =>
  signFor(cursorKey, 'stored writer')(writer)

/** Returns what is stored of a network address. Addresses of one IPv6 network (/64) belong to one client. */
export function clientHash({ cursorKey }: CursorKeyPort, client: string | null): string | null {
  if (client === null) return null
  return signFor(cursorKey, 'client')(networkOf(client))
}

/** Returns an IPv4 address, or the first four groups of an IPv6 address. */
export function networkOf(address: string): string {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1]
  if (mapped !== undefined) return mapped
  if (!isIPv6(address)) return address
  const [head = '', tail] = address.replace(/%.*$/, '').split('::')
  const groups = (part: string | undefined) => (part ? part.split(':') : [])
  const [first, last] = [groups(head), groups(tail)]
  const zeros = tail === undefined ? [] : Array<string>(Math.max(0, 8 - first.length - last.length)).fill('0')
  return [...first, ...zeros, ...last]
    .slice(0, 4)
    .map((one) => parseInt(one, 16).toString(16))
    .join(':')
}

/** Returns what a writer's picture is drawn from: the same for the same e-mail address, or for the same name. */
export const avatarOf = (
  { cursorKey }: CursorKeyPort,
  { name, email }: { name: string; email: string },
): string => signFor(cursorKey, 'avatar')((email || name).trim().toLowerCase()).slice(0, 16)
