/** Serves the edge cache over HTTP: readers on one port, purge requests on another, which is on loopback. */
import { randomBytes } from 'node:crypto'
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
import { isSameText } from '../same-text.ts'
import {
  EdgeCache,
  sentFields,
  withoutOwn,
  type EdgeAnswer,
  type EdgeCopy,
  type EdgeRequest,
  type Fields,
  type StoredAnswer,
} from './cache.ts'

/** The maximum size of the cache and of one response, in bytes. */
const CACHE_BYTES = 32 * 1024 * 1024
const LONGEST_RESPONSE = 32 * 1024 * 1024
/** The maximum size of a request body, in bytes. */
const LONGEST_BODY = 1024 * 1024
const LONGEST_PURGE = 256 * 1024
/** How long a client may take to send a request, and the blog to answer it, in milliseconds. */
const LONGEST_REQUEST = 30_000
const LONGEST_ANSWER = 30_000
/** The encodings that are requested from the blog, best first. Others would only multiply the stored responses. */
const ENCODINGS = ['br', 'gzip']

export interface EdgeCounts {
  /** Answered without a request to the blog. */
  hits: number
  /** Answered with a stored response that the blog has revalidated. */
  revalidated: number
  /** Fetched from the blog, and stored. */
  misses: number
  /** Fetched from the blog, and not stored. */
  passed: number
  purges: number
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
  /** Returns the responses that were used last, and the number of all of them. */
  copies(most: number): { copies: EdgeCopy[]; total: number }
  close(): Promise<void>
}

export interface EdgeOptions {
  /** Returns where the blog listens. It is called for each request, because the blog may start later. */
  blog(): { host: string; port: number }
  host: string
  port: number
}

/**
 * Starts the edge cache.
 * @param options.port 0 for any free port; if the port is in use, any free port
 */
export async function startEdge({ blog, host, port }: EdgeOptions): Promise<EdgeStandIn> {
  const edge = new Edge(blog)
  const key = randomBytes(24).toString('base64url')
  const options = { requestTimeout: LONGEST_REQUEST, headersTimeout: LONGEST_REQUEST }
  const readers = createServer(options, (request, response) => void edge.answer(request, response))
  const calls = createServer(options, (request, response) => void edge.purged(request, response, key))
  const readersPort = await listening(readers, host, port)
  try {
    const purgeUrl = `http://127.0.0.1:${await listening(calls, '127.0.0.1', 0)}/purge`
    return {
      origin: `http://${host.includes(':') ? `[${host}]` : host}:${readersPort}`,
      port: readersPort,
      purgeUrl,
      key,
      get counts() {
        return { ...edge.counts }
      },
      get bytes() {
        return edge.cache.bytes
      },
      copies: (most) => edge.cache.copies(most),
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
  readonly cache = new EdgeCache(CACHE_BYTES)
  readonly counts: EdgeCounts = { hits: 0, revalidated: 0, misses: 0, passed: 0, purges: 0 }
  readonly #blog: EdgeOptions['blog']
  readonly #agent = new Agent({ keepAlive: true, maxSockets: 64 })
  /** Requests to the blog that other readers of the same page wait for. */
  readonly #fetching = new Map<string, Promise<unknown>>()

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
          : await this.#pass(request, await bodyOf(incoming))
      this.#reply(request, response, answer)
    } catch (error) {
      if (response.headersSent) response.destroy()
      else if (error instanceof TooLong) fail(response, 413, 'The request is too long.')
      else fail(response, 502, 'The blog does not answer.')
    }
  }

  async #read(request: EdgeRequest, incoming: IncomingMessage): Promise<EdgeAnswer> {
    const accepted = new Negotiator(incoming).encodings([...ENCODINGS, 'identity'])
    const headers: Fields = {
      ...request.headers,
      ...NOT_FORWARDED,
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
    const pending = isShared ? this.#fetching.get(key) : undefined
    if (pending) {
      await pending.catch(() => undefined)
      const made = this.cache.find(asked)
      if (made?.isFresh) return this.#hit(made.stored)
    }
    const fetched = this.#fetch(asked, incoming, this.cache.find(asked)?.stored)
    if (isShared && !pending) {
      this.#fetching.set(key, fetched)
      void fetched.finally(() => this.#fetching.delete(key)).catch(() => undefined)
    }
    return await fetched
  }

  #hit(stored: StoredAnswer): EdgeAnswer {
    this.counts.hits++
    stored.uses++
    const ttl = Math.floor(stored.policy.timeToLive() / 1_000)
    return { ...stored, headers: noted(sentFields(stored), `hit; ttl=${ttl}`) }
  }

  /** Fetches a response from the blog, or revalidates the stored one. */
  async #fetch(
    asked: EdgeRequest,
    incoming: IncomingMessage,
    known: StoredAnswer | undefined,
  ): Promise<EdgeAnswer> {
    const begun = this.cache.generation
    const validator = known?.headers['etag']
    const answer = await this.#ask(
      validator === undefined
        ? asked
        : { ...asked, headers: { ...asked.headers, 'if-none-match': validator } },
      incoming.socket.remoteAddress,
    )
    const revalidated = known && this.cache.revalidate(known, answer)
    const whole = revalidated ?? answer
    const isKept = asked.method === 'GET' && this.cache.keep(asked, whole, begun)
    if (revalidated) this.counts.revalidated++
    else if (isKept) this.counts.misses++
    else this.counts.passed++
    const why = `${known ? 'fwd=stale' : 'fwd=uri-miss'}; fwd-status=${answer.status}${isKept ? '; stored' : ''}`
    return { ...whole, headers: noted(withoutOwn(whole.headers), why) }
  }

  /** Passes a request on that no stored response can answer. */
  async #pass(
    request: EdgeRequest,
    { body, reader }: { body: Buffer; reader: string | undefined },
  ): Promise<EdgeAnswer> {
    const answer = await this.#ask(request, reader, body)
    this.counts.passed++
    if (request.method !== 'OPTIONS' && request.method !== 'GET' && answer.status < 400)
      this.cache.invalidate(request)
    return {
      ...answer,
      headers: noted(withoutOwn(answer.headers), `fwd=bypass; fwd-status=${answer.status}`),
    }
  }

  #ask({ method, url, headers }: EdgeRequest, reader = '', body?: Buffer): Promise<EdgeAnswer> {
    return new Promise((done, fail) => {
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
            if (length > LONGEST_RESPONSE) outgoing.destroy(new Error('The response is too long.'))
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
      outgoing.end(body)
    })
  }

  /** Sends a response, or 304 if the reader has it. */
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
    // A stored response to HEAD has the body of GET.
    const length = method === 'HEAD' && body.length === 0 ? headers['content-length'] : String(body.length)
    const isEmpty = status === 204 || status === 304
    response.writeHead(status, {
      ...headers,
      ...(isEmpty || length === undefined ? {} : { 'content-length': length }),
    } as Record<string, string>)
    response.end(method === 'HEAD' || isEmpty ? undefined : body)
  }

  /** Handles a purge request: `{ "groups": [ … ] }` or `{ "all": true }`. */
  async purged(request: IncomingMessage, response: ServerResponse, key: string): Promise<void> {
    const say = (status: number, answer: object) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(answer))
    const given = (request.headers.authorization ?? '').replace(/^Bearer /, '')
    if (!isSameText(given, key)) return void say(401, { error: 'The key is not valid.' })
    if (request.method !== 'POST' || request.url !== '/purge')
      return void say(404, { error: 'There is no such call.' })
    // A client that closes the connection gets no response.
    const body = await bodyOf(request, LONGEST_PURGE).catch(() => undefined)
    const groups = purgedOf(body?.body.toString() ?? '')
    if (groups === undefined)
      return void say(400, { error: 'Send “groups”, a list of strings, or “all”: true.' })
    this.counts.purges++
    say(200, { dropped: this.cache.purge(groups) })
  }
}

/** Conditions, which are evaluated here, and fields about a body, which GET and HEAD have not. */
const NOT_FORWARDED: Fields = {
  'content-length': undefined,
  expect: undefined,
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

/** Appends this cache to `Cache-Status`, after those nearer to the blog (RFC 9211 §2). */
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

class TooLong extends Error {}

/** Reads a whole body before the blog is asked, so that a slow client occupies no connection to it. */
async function bodyOf(
  request: IncomingMessage,
  longest = LONGEST_BODY,
): Promise<{ body: Buffer; reader: string | undefined }> {
  const reader = request.socket.remoteAddress
  const parts: Buffer[] = []
  let length = 0
  for await (const part of request as AsyncIterable<Buffer>) {
    length += part.length
    if (length > longest) throw new TooLong()
    parts.push(part)
  }
  return { body: Buffer.concat(parts), reader }
}

const fail = (response: ServerResponse, status: number, text: string) =>
  response
    .writeHead(status, { 'content-type': 'text/plain', 'cache-control': 'no-store', connection: 'close' })
    .end(`${text}\n`)

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
