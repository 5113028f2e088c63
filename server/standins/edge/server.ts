/** The edge cache over HTTP: readers on one port, purges and questions on another. Both on loopback. */
import { randomBytes, timingSafeEqual } from 'node:crypto'
import {
  Agent,
  createServer,
  request as send,
  type IncomingMessage,
  type Server,
  type ServerResponse,
} from 'node:http'
import fresh from 'fresh'
import Negotiator from 'negotiator'
import {
  EdgeCache,
  sentFields,
  withoutOwn,
  type EdgeAnswer,
  type EdgeCopy,
  type EdgeRequest,
  type Fields,
} from './cache.ts'

/** The maximum size of all answers that are kept, and of one that is passed on, in bytes. */
const KEPT_BYTES = 32 * 1024 * 1024
const LONGEST_BODY = 32 * 1024 * 1024
const LONGEST_PURGE = 256 * 1024
/** How long the blog may take to answer, in milliseconds. */
const LONGEST_ANSWER = 30_000
/** The encodings that are asked for, best first. Other wishes of browsers would only multiply what is kept. */
const ENCODINGS = ['br', 'gzip']

export interface EdgeCounts {
  /** Answered without asking the blog. */
  hits: number
  /** Answered with what was kept, after the blog had confirmed it. */
  confirmed: number
  /** Fetched from the blog, and kept. */
  misses: number
  /** Fetched from the blog, and not kept. */
  passed: number
  purges: number
  dropped: number
}

export interface EdgeStandIn {
  /** For readers. */
  origin: string
  port: number
  /** For purges. */
  purgeUrl: string
  key: string
  readonly counts: EdgeCounts
  readonly bytes: number
  copies(): EdgeCopy[]
  close(): Promise<void>
}

export interface EdgeOptions {
  /** Where the blog listens. Asked for each request, since it may begin later. */
  blog(): { host: string; port: number }
  host: string
  port: number
}

/** @param options.port another one is used if it is taken; 0 for any */
export async function startEdge({ blog, host, port }: EdgeOptions): Promise<EdgeStandIn> {
  const edge = new Edge(blog)
  const key = randomBytes(24).toString('base64url')
  const readers = createServer((request, response) => void edge.answer(request, response))
  const calls = createServer((request, response) => void edge.called(request, response, key))
  const origin = `http://${host}:${await listening(readers, host, port)}`
  try {
    const purgeUrl = `http://127.0.0.1:${await listening(calls, '127.0.0.1', 0)}/purge`
    return {
      origin,
      port: Number(new URL(origin).port),
      purgeUrl,
      key,
      get counts() {
        return { ...edge.counts }
      },
      get bytes() {
        return edge.cache.bytes
      },
      copies: () => edge.cache.copies(),
      close: async () => {
        await Promise.all([closed(readers), closed(calls)])
        edge.end()
      },
    }
  } catch (error) {
    await closed(readers)
    throw error
  }
}

class Edge {
  readonly cache = new EdgeCache(KEPT_BYTES)
  readonly counts: EdgeCounts = { hits: 0, confirmed: 0, misses: 0, passed: 0, purges: 0, dropped: 0 }
  readonly #blog: EdgeOptions['blog']
  readonly #agent = new Agent({ keepAlive: true, maxSockets: 64 })
  /** Requests to the blog whose answers others can use, too. */
  readonly #asked = new Map<string, Promise<unknown>>()

  constructor(blog: EdgeOptions['blog']) {
    this.#blog = blog
  }

  end(): void {
    this.#agent.destroy()
  }

  async answer(incoming: IncomingMessage, response: ServerResponse): Promise<void> {
    const request: EdgeRequest = {
      method: incoming.method ?? 'GET',
      url: incoming.url ?? '/',
      headers: { ...incoming.headers },
    }
    try {
      const isReading = request.method === 'GET' || request.method === 'HEAD'
      const answer =
        isReading && request.headers['range'] === undefined
          ? await this.#read(request, incoming)
          : await this.#pass(request, incoming)
      this.#reply(request, response, answer)
    } catch {
      if (response.headersSent) response.destroy()
      else
        response
          .writeHead(502, { 'content-type': 'text/plain', 'cache-control': 'no-store' })
          .end('The blog does not answer.\n')
    }
  }

  async #read(request: EdgeRequest, incoming: IncomingMessage): Promise<EdgeAnswer> {
    const accepted = new Negotiator(incoming).encodings([...ENCODINGS, 'identity'])
    const headers: Fields = {
      ...request.headers,
      // The conditions of the reader are compared with the answer.
      ...NO_CONDITIONS,
      'accept-encoding': ENCODINGS.find((one) => accepted.includes(one)) ?? 'identity',
    }
    const asked: EdgeRequest = { ...request, headers }
    const found = this.cache.find(asked)
    if (found?.isFresh) return this.#hit(found.stored)
    const isShared = headers['cookie'] === undefined && headers['authorization'] === undefined
    const key = [
      headers['host'],
      request.method,
      request.url,
      headers['accept-encoding'],
      headers['accept'],
    ].join(' ')
    const pending = isShared ? this.#asked.get(key) : undefined
    if (pending) {
      await pending.catch(() => undefined)
      const made = this.cache.find(asked)
      if (made?.isFresh) return this.#hit(made.stored)
    }
    const fetched = this.#fetch(asked, incoming, this.cache.find(asked)?.stored)
    if (isShared && !pending) {
      this.#asked.set(key, fetched)
      void fetched.finally(() => this.#asked.delete(key)).catch(() => undefined)
    }
    return await fetched
  }

  #hit(stored: NonNullable<ReturnType<EdgeCache['find']>>['stored']): EdgeAnswer {
    this.counts.hits++
    stored.uses++
    const ttl = Math.floor(stored.policy.timeToLive() / 1_000)
    return { ...stored, headers: noted(sentFields(stored), `hit; ttl=${ttl}`) }
  }

  /** Asks the blog, with the validator of what is kept. */
  async #fetch(
    asked: EdgeRequest,
    incoming: IncomingMessage,
    known: NonNullable<ReturnType<EdgeCache['find']>>['stored'] | undefined,
  ): Promise<EdgeAnswer> {
    const begun = this.cache.generation
    const validator = known?.headers['etag']
    const answer = await this.#ask(
      validator === undefined
        ? asked
        : { ...asked, headers: { ...asked.headers, 'if-none-match': validator } },
      incoming,
    )
    const confirmed = known && this.cache.renew(asked, known, answer)
    const whole = confirmed ?? answer
    const isKept = asked.method === 'GET' && this.cache.keep(asked, whole, begun)
    if (confirmed) this.counts.confirmed++
    else if (isKept) this.counts.misses++
    else this.counts.passed++
    const why = `${known ? 'fwd=stale' : 'fwd=uri-miss'}; fwd-status=${answer.status}${isKept ? '; stored' : ''}`
    return { ...whole, headers: noted(withoutOwn(whole.headers), why) }
  }

  async #pass(request: EdgeRequest, incoming: IncomingMessage): Promise<EdgeAnswer> {
    const answer = await this.#ask(request, incoming)
    this.counts.passed++
    if (request.method !== 'OPTIONS' && request.method !== 'GET' && answer.status < 400)
      this.cache.invalidate(request)
    return {
      ...answer,
      headers: noted(withoutOwn(answer.headers), `fwd=bypass; fwd-status=${answer.status}`),
    }
  }

  #ask({ method, url, headers }: EdgeRequest, incoming: IncomingMessage): Promise<EdgeAnswer> {
    return new Promise((done, fail) => {
      const reader = incoming.socket.remoteAddress ?? ''
      const before = headers['x-forwarded-for']
      const outgoing = send(
        {
          ...this.#blog(),
          method,
          path: url,
          agent: this.#agent,
          timeout: LONGEST_ANSWER,
          headers: {
            ...withoutHops(headers),
            'x-forwarded-for': before === undefined ? reader : `${String(before)}, ${reader}`,
          } as Record<string, string | string[]>,
        },
        (response) => {
          const parts: Buffer[] = []
          let length = 0
          response.on('data', (part: Buffer) => {
            length += part.length
            if (length > LONGEST_BODY) outgoing.destroy(new Error('The answer is too long.'))
            else parts.push(part)
          })
          response.on('error', fail)
          response.on('end', () =>
            done({
              status: response.statusCode ?? 502,
              headers: withoutHops(response.headers),
              body: Buffer.concat(parts),
            }),
          )
        },
      )
      outgoing.on('timeout', () => outgoing.destroy(new Error('The blog does not answer.')))
      outgoing.on('error', fail)
      incoming.pipe(outgoing)
    })
  }

  /** Answers a reader, who may have the answer already. */
  #reply(
    { method, headers: asked }: EdgeRequest,
    response: ServerResponse,
    { status, headers, body }: EdgeAnswer,
  ): void {
    const isReading = method === 'GET' || method === 'HEAD'
    const known = {
      'if-none-match': asked['if-none-match'],
      'if-modified-since': asked['if-modified-since'],
      'cache-control': asked['cache-control'],
    }
    if (
      isReading &&
      status === 200 &&
      fresh(known as Record<string, string>, headers as Record<string, string>)
    ) {
      const { 'content-length': _, 'content-type': __, 'content-encoding': ___, ...left } = headers
      response.writeHead(304, left as Record<string, string>).end()
      return
    }
    // What answers HEAD has a body if it is kept.
    const length = method === 'HEAD' && body.length === 0 ? headers['content-length'] : String(body.length)
    const isEmpty = status === 204 || status === 304
    response.writeHead(status, {
      ...headers,
      ...(isEmpty || length === undefined ? {} : { 'content-length': length }),
    } as Record<string, string>)
    response.end(method === 'HEAD' || isEmpty ? undefined : body)
  }

  /** Purges: `{ "groups": [ … ] }` or `{ "all": true }`. */
  async called(request: IncomingMessage, response: ServerResponse, key: string): Promise<void> {
    const say = (status: number, answer: object) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(answer))
    const given = (request.headers.authorization ?? '').replace(/^Bearer /, '')
    if (!isSameText(given, key)) return void say(401, { error: 'The key is not valid.' })
    if (request.method !== 'POST' || request.url !== '/purge')
      return void say(404, { error: 'There is no such call.' })
    const groups = purgedOf(await textOf(request))
    if (groups === undefined)
      return void say(400, { error: '“groups”, a list of texts, or “all” is needed.' })
    const dropped = this.cache.purge(groups)
    this.counts.purges++
    this.counts.dropped += dropped
    say(200, { dropped })
  }
}

const NO_CONDITIONS: Fields = {
  'if-none-match': undefined,
  'if-modified-since': undefined,
  'if-match': undefined,
  'if-unmodified-since': undefined,
  'if-range': undefined,
}

/** Fields of one connection (RFC 9110 §7.6.1). */
const HOPS = ['connection', 'keep-alive', 'proxy-connection', 'te', 'trailer', 'transfer-encoding', 'upgrade']

function withoutHops(headers: Fields): Fields {
  const named = String(headers['connection'] ?? '')
    .toLowerCase()
    .split(/\s*,\s*/)
  return Object.fromEntries(
    Object.entries(headers).filter(
      ([name, value]) => value !== undefined && !HOPS.includes(name) && !named.includes(name),
    ),
  )
}

/** Adds what this cache did, after those that are nearer to the blog (RFC 9211 §2). */
const noted = (headers: Fields, what: string): Fields => ({
  ...headers,
  'cache-status': [headers['cache-status'], `edge; ${what}`].filter((one) => one !== undefined).join(', '),
})

function purgedOf(text: string): readonly string[] | 'all' | undefined {
  try {
    const { groups, all } = JSON.parse(text) as { groups?: unknown; all?: unknown }
    if (all === true) return 'all'
    return Array.isArray(groups) && groups.every((one) => typeof one === 'string') ? groups : undefined
  } catch {
    return undefined
  }
}

async function textOf(request: IncomingMessage): Promise<string> {
  let text = ''
  for await (const part of request) {
    text += String(part)
    if (text.length > LONGEST_PURGE) return ''
  }
  return text
}

function isSameText(one: string, other: string): boolean {
  const [a, b] = [Buffer.from(one), Buffer.from(other)]
  return a.length === b.length && timingSafeEqual(a, b)
}

async function listening(server: Server, host: string, port: number): Promise<number> {
  const listen = (at: number) =>
    new Promise<void>((ready, fail) => {
      server.once('error', fail)
      server.listen(at, host, ready)
    })
  await listen(port).catch(() => listen(0))
  const address = server.address()
  return typeof address === 'object' && address ? address.port : port
}

const closed = (server: Server): Promise<void> =>
  new Promise((done) => {
    server.close(() => done())
    server.closeAllConnections()
  })
