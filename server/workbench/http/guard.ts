/** Guards the workbench: checks Host, Origin and the key. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import type { Context, MiddlewareHandler } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import { REQUEST_PROBLEMS } from './problems.ts'
import { refuse } from './responses.ts'

const COOKIE = 'esquina'
/** After this many wrong keys within a minute, all are rejected until it is over. */
const WRONG_KEYS_A_MINUTE = 10

const digest = (text: string) => createHmac('sha256', 'esquina comparison').update(text).digest()
const same = (a: string, b: string) => timingSafeEqual(digest(a), digest(b))

export class Guard {
  readonly #key: string
  readonly #hosts: readonly string[]
  #wrong = { since: 0, count: 0 }

  /**
   * @param hosts the accepted values of Host; all others are rejected (DNS rebinding). The list is read for every
   *   request, because it is filled once the port is known.
   */
  constructor(key: string, hosts: readonly string[]) {
    this.#key = key
    this.#hosts = hosts
  }

  /** The value of the cookie. It is derived from the key, so that it survives a restart without revealing the key. */
  get #session(): string {
    return createHmac('sha256', this.#key).update('workbench session').digest('base64url')
  }

  /** Checks every request: the Host must be known, and requests that change something must come from the workbench. */
  readonly place: MiddlewareHandler = async (context, next) => {
    const host = context.req.header('host') ?? ''
    if (!this.#hosts.includes(host)) return refuse(context, 421, REQUEST_PROBLEMS['host-unknown']())
    const origin = context.req.header('origin')
    const foreign =
      origin === undefined
        ? /^(cross-site|same-site)$/.test(context.req.header('sec-fetch-site') ?? '')
        : origin !== `http://${host}`
    const reads = context.req.method === 'GET' || context.req.method === 'HEAD'
    if (foreign && (!reads || context.req.path.startsWith('/api/')))
      return refuse(context, 403, REQUEST_PROBLEMS['origin-foreign']())
    return next()
  }

  /** Checks requests to the API: they need the cookie of a signed-in browser or the key as a bearer token. */
  readonly signedIn: MiddlewareHandler = async (context, next) => {
    const bearer = /^Bearer (\S+)$/.exec(context.req.header('authorization') ?? '')?.[1]
    const cookie = getCookie(context, COOKIE)
    if (bearer !== undefined ? this.accepts(bearer) : cookie !== undefined && same(cookie, this.#session))
      return next()
    return refuse(context, 401, REQUEST_PROBLEMS['not-signed-in']())
  }

  /** Compares a key in constant time. After too many wrong keys, rejects all for the rest of the minute. */
  accepts(key: string): boolean {
    const now = Date.now()
    if (now - this.#wrong.since > 60_000) this.#wrong = { since: now, count: 0 }
    if (this.#wrong.count >= WRONG_KEYS_A_MINUTE) return false
    if (same(key, this.#key)) return true
    this.#wrong.count++
    return false
  }

  signIn(context: Context): void {
    setCookie(context, COOKIE, this.#session, {
      httpOnly: true,
      sameSite: 'Strict',
      path: '/',
      maxAge: 60 * 60 * 24 * 90,
    })
  }

  signOut(context: Context): void {
    setCookie(context, COOKIE, '', { httpOnly: true, sameSite: 'Strict', path: '/', maxAge: 0 })
  }
}
