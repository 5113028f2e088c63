/** The workbench's guard: Host, Origin, and the key, asked for once. */
import { createHmac, timingSafeEqual } from 'node:crypto'
import type { Context, MiddlewareHandler } from 'hono'
import { getCookie, setCookie } from 'hono/cookie'
import type { ProblemDetails } from '../../../contract/operations.ts'

const COOKIE = 'esquina'
/** Wrong keys answered within a minute before all are refused for its rest. */
const WRONG_KEYS_A_MINUTE = 10

const digest = (text: string) => createHmac('sha256', 'esquina comparison').update(text).digest()
const same = (a: string, b: string) => timingSafeEqual(digest(a), digest(b))

export function problem(context: Context, details: Omit<ProblemDetails, 'type'>): Response {
  return context.body(JSON.stringify({ type: 'about:blank', ...details }), details.status as 400, {
    'content-type': 'application/problem+json',
  })
}

export class Guard {
  readonly #key: string
  readonly #hosts: readonly string[]
  #wrong = { since: 0, count: 0 }

  /**
   * @param hosts values of Host under which the workbench is reached; any other is refused (DNS rebinding). The list
   *   is read at each request: it is filled once the port is known.
   */
  constructor(key: string, hosts: readonly string[]) {
    this.#key = key
    this.#hosts = hosts
  }

  /** What the cookie holds: made from the key, so that it survives a restart and does not give the key away. */
  get #session(): string {
    return createHmac('sha256', this.#key).update('workbench session').digest('base64url')
  }

  /** For every request: the Host must be ours, and what changes something must come from our own pages. */
  readonly place: MiddlewareHandler = async (context, next) => {
    const host = context.req.header('host') ?? ''
    if (!this.#hosts.includes(host))
      return problem(context, {
        status: 421,
        title: 'This is not the workbench’s address',
        detail: 'Open it by the address printed at the start.',
      })
    const origin = context.req.header('origin')
    const foreign =
      origin === undefined
        ? /^(cross-site|same-site)$/.test(context.req.header('sec-fetch-site') ?? '')
        : origin !== `http://${host}`
    const reads = context.req.method === 'GET' || context.req.method === 'HEAD'
    if (foreign && (!reads || context.req.path.startsWith('/api/'))) {
      return problem(context, {
        status: 403,
        title: 'Asked from another site',
        detail: 'The workbench answers its own pages only.',
      })
    }
    return next()
  }

  /** For the API: a signed-in browser or a bearer key. */
  readonly signedIn: MiddlewareHandler = async (context, next) => {
    const bearer = /^Bearer (\S+)$/.exec(context.req.header('authorization') ?? '')?.[1]
    const cookie = getCookie(context, COOKIE)
    if (bearer !== undefined ? this.accepts(bearer) : cookie !== undefined && same(cookie, this.#session))
      return next()
    return problem(context, {
      status: 401,
      title: 'Not signed in',
      detail: 'Open the sign-in address printed at the start, or send the key as a bearer token.',
    })
  }

  /** Compares in constant time; after too many wrong keys, refuses all for the rest of the minute. */
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
