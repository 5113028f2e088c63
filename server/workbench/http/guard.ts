/** Guards the workbench: checks Host, Origin, and the session or the key. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import type { Context, MiddlewareHandler } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import type { NewSession, Sessions } from './sessions.ts'
import { REQUEST_PROBLEMS } from './problems.ts'
import { refuse } from './responses.ts'

const COOKIE = 'esquina'
/** With which the workbench's script sends the secret of its session. */
const SECRET_HEADER = 'x-workbench-secret'
/** After this many wrong keys or sessions within a minute, further ones are answered with 429. */
const WRONG_A_MINUTE = 10

const digest = (text: string) => createHmac('sha256', 'esquina comparison').update(text).digest()
const same = (a: string, b: string) => timingSafeEqual(digest(a), digest(b))

export class Guard {
  readonly #key: string
  readonly #hosts: readonly string[]
  readonly #sessions: Sessions
  #wrong = { since: 0, count: 0 }

  /**
   * @param hosts the accepted values of Host; all others are rejected (DNS rebinding). The list is read for every
   *   request, because it is filled once the port is known.
   */
  constructor(key: string, hosts: readonly string[], sessions: Sessions) {
    this.#key = key
    this.#hosts = hosts
    this.#sessions = sessions
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

  /** Checks requests to the API: they need the session of a signed-in browser, or the key as a bearer token. */
  readonly signedIn: MiddlewareHandler = async (context, next) => {
    const bearer = /^Bearer (\S+)$/.exec(context.req.header('authorization') ?? '')?.[1]
    if (bearer !== undefined ? this.isKey(bearer) : (await this.session(context)) !== undefined) return next()
    // A cookie alone is not an attempt: browsers send it to every program on this machine.
    const isTried =
      bearer !== undefined ||
      (getCookie(context, COOKIE) !== undefined && context.req.header(SECRET_HEADER) !== undefined)
    return (
      (isTried ? this.#tooMany(context) : undefined) ??
      refuse(context, 401, REQUEST_PROBLEMS['not-signed-in']())
    )
  }

  /** Returns the id of a request's session; undefined without one. */
  async session(context: Context): Promise<string | undefined> {
    const cookie = getCookie(context, COOKIE)
    const secret = context.req.header(SECRET_HEADER)
    return cookie === undefined || secret === undefined
      ? undefined
      : await this.#sessions.find(cookie, secret)
  }

  /** Compares a key in constant time. */
  isKey(key: string): boolean {
    return same(key, this.#key)
  }

  /** Answers a wrong key. The right one is always accepted: whoever tries keys must not lock its owner out. */
  refuseKey(context: Context): Response {
    return this.#tooMany(context) ?? refuse(context, 401, REQUEST_PROBLEMS['key-wrong']())
  }

  /** Counts a wrong key or session. @returns the answer if there were too many */
  #tooMany(context: Context): Response | undefined {
    const now = Date.now()
    if (now - this.#wrong.since > 60_000) this.#wrong = { since: now, count: 0 }
    this.#wrong.count++
    if (this.#wrong.count <= WRONG_A_MINUTE) return undefined
    const seconds = Math.ceil((this.#wrong.since + 60_000 - now) / 1_000)
    context.header('retry-after', String(Math.max(1, seconds)))
    return refuse(context, 429, REQUEST_PROBLEMS['sign-in-too-often'](Math.max(1, seconds)))
  }

  /** Opens a session. @returns the secret, for the script that has asked */
  async signIn(context: Context): Promise<string> {
    const { cookie, secret }: NewSession = await this.#sessions.open(context.req.header('user-agent') ?? '')
    setCookie(context, COOKIE, cookie, {
      httpOnly: true,
      sameSite: 'Strict',
      path: '/',
      maxAge: 60 * 60 * 24 * 90,
    })
    return secret
  }

  /** Ends the session of a request, and deletes its cookie. */
  async signOut(context: Context): Promise<void> {
    const id = await this.session(context)
    if (id !== undefined) await this.#sessions.end(id)
    setCookie(context, COOKIE, '', { httpOnly: true, sameSite: 'Strict', path: '/', maxAge: 0 })
  }
}
