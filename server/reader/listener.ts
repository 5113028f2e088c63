/** The blog over HTTP: health, fonts, assets and images. Everything else goes to `answer`. */
import type { IncomingMessage } from 'node:http'
import { BlockList } from 'node:net'
import { readFile } from 'node:fs/promises'
import { randomUUID } from 'node:crypto'
import { createRequire } from 'node:module'
import { Hono, type Context } from 'hono'
import { isoTime } from '../../core/content/iso-time.ts'
import { drawAvatar } from '../../core/comments/avatar.ts'
import { API_DOCUMENT, SERVED } from '../../core/routing/addresses/served.ts'
import { hasPublicApi, publicApiDocument } from '../../core/syndication/document.ts'
import { isOutage } from '../store/connection.ts'
import { answer, type AnswerPorts } from './answer.ts'
import type { CursorKeyPort, DatabasePort, PoolPort } from '../publish/ports.ts'
import type { ImagesPort, NotFoundPort, TrafficPort } from './ports.ts'
import { errorPage, failedPage, UNAVAILABLE, type ErrorPorts } from './error-pages.ts'
import type { BlogResponse } from './responses.ts'
import { readerAddress } from './limits/reader-address.ts'
import { ReaderRates, type ReaderLimits } from './limits/reader-rates.ts'
import { ReaderTurns } from './limits/reader-turns.ts'
import { FONTS } from '../../core/shapes/fonts.ts'
import { serveImage, serveImageSize } from './images/serve.ts'
import { subscriptionPage } from './comments/mail-page.ts'
import { send } from './http/send.ts'
import { sendFile } from './http/send-file.ts'
import { readForm, readRequest, type BlogRequest } from './request.ts'

/** For addresses that change with their content. */
const IMMUTABLE = 'public, max-age=31536000, immutable'
const ASSET_TYPES: Readonly<Record<string, string>> = {
  css: 'text/css; charset=utf-8',
  js: 'text/javascript; charset=utf-8',
}

const resolve = createRequire(import.meta.url).resolve

export interface ListenerOptions {
  /** How many pages one reader can request; unlimited if it is missing. */
  limits?: ReaderLimits
  /** Proxies whose `X-Forwarded-For` counts. */
  proxies?: BlockList | undefined
}

export function blogListener(
  blog: AnswerPorts & NotFoundPort & TrafficPort & ImagesPort,
  { limits, proxies }: ListenerOptions = {},
): Hono {
  const app = new Hono()
  const rates = limits && new ReaderRates(limits)
  const turns = new ReaderTurns()
  app.get(SERVED.health, (context) => health(context, blog))
  serveFiles(app, blog)
  app.get(API_DOCUMENT, async (context, next) => {
    const { definition, version } = blog.site
    if (!hasPublicApi(definition)) return await next()
    return context.json(publicApiDocument(definition, version), 200, {
      'access-control-allow-origin': '*',
      'cache-control': 'no-cache',
    })
  })
  /** Answers within the limits of a reader. @param isMultipart whether a form may also be sent as multipart */
  const limited = async (
    context: Context,
    answerIt: (request: BlogRequest) => Promise<Response>,
    isMultipart = false,
  ) => {
    const { raw, method } = context.req
    const client = clientOf(context, proxies)
    const request = readRequest(raw, client, sentTarget(context), fieldsOf(context))
    const read = () => readForm(raw, { multipart: isMultipart })
    if (client === null) return await answerIt({ ...request, form: read })
    const retryAfter = rates?.take(client)
    if (retryAfter !== undefined) return tooMany(blog, retryAfter)
    const isForm = method === 'POST'
    // Before its turn, which a form that arrives slowly must not take from others.
    const form = isForm ? await read() : undefined
    return await turns.run(client, isForm, () =>
      answerIt({
        ...request,
        sparing: turns.isBusy,
        ...(form ? { form: () => Promise.resolve(form) } : {}),
      }),
    )
  }
  app.on(['GET', 'POST'], SERVED.subscription, (context) =>
    // Programs that end a subscription with one click send it as multipart (RFC 8058 §3.2).
    limited(context, (request) => serveSubscription(context, blog, request), true),
  )
  app.all('*', (context) => limited(context, (request) => serve(context, blog, request)))
  app.onError((error, context) => {
    const number = randomUUID()
    blog.log.error(
      { id: number, path: context.req.path.slice(0, 200), error: error.message },
      'request failed',
    )
    return respond(failedPage(blog, number))
  })
  return app
}

type FilePorts = Parameters<typeof imageResponse>[1] & Parameters<typeof serveAvatar>[1] & ErrorPorts

/** Serves fonts, assets and images, which have no route. */
function serveFiles(app: Hono, blog: FilePorts): void {
  app.get(SERVED.font, (context) => serveFont(context, blog))
  app.get(SERVED.asset, (context) => serveAsset(context, blog))
  app.get(SERVED.image, (context) => imageResponse(context, blog))
  app.get(SERVED.imageSize, (context) => imageResponse(context, blog))
  app.get(SERVED.avatar, (context) => serveAvatar(context, blog))
}

/** Returns what a browser gets for a file; undefined if the path is not that of a file. */
export async function fileResponse(
  blog: FilePorts,
  path: string,
  method: 'GET' | 'HEAD' = 'GET',
): Promise<Response | undefined> {
  const app = new Hono()
  serveFiles(app, blog)
  app.notFound((context) => context.body(null, 204))
  const response = await app.request(`http://blog.invalid${path}`, { method })
  return response.status === 204 ? undefined : response
}

function respond({ status, headers, body, cookies = [] }: BlogResponse): Response {
  const response = new Response(body, { status, headers })
  for (const cookie of cookies) response.headers.append('set-cookie', cookie)
  return response
}

const noFile = (blog: ErrorPorts) =>
  respond(errorPage(blog, { status: 404, title: 'not-found-title', text: 'file-not-found-text' }))

export async function health(context: Context, blog: PoolPort): Promise<Response> {
  try {
    await blog.pool.query('SELECT 1')
    return context.json({ status: 'ok' })
  } catch {
    return context.json({ status: 'database unavailable' }, 503)
  }
}

const tooMany = (blog: ErrorPorts, seconds: number) =>
  respond(
    errorPage(blog, {
      status: 429,
      title: 'too-many-title',
      text: 'too-many-text',
      values: { seconds },
      headers: { 'retry-after': String(seconds), 'cache-control': 'no-store' },
    }),
  )

async function serve(
  context: Context,
  blog: AnswerPorts & NotFoundPort & TrafficPort,
  request: BlogRequest,
): Promise<Response> {
  const start = performance.now()
  const response = await answer(blog, request)
  const { status, headers, route, fragments, submission = null } = response
  if (status === 404 && request.method === 'GET') blog.notFound.add(request.target.replace(/\?.*$/s, ''))
  blog.traffic.add({
    id: request.id,
    at: isoTime(new Date()),
    method: request.method,
    target: request.target.slice(0, 2_000),
    status,
    route,
    // The type of the response: a route without JSON answers programs with the page.
    accepts: headers['content-type']?.includes('json') === true ? 'json' : 'html',
    copy: response.copy === 'hit',
    fragments: { hits: fragments.filter((one) => one.outcome === 'hit').length, total: fragments.length },
    milliseconds: performance.now() - start,
    submission,
  })
  return await send(response, { method: request.method, field: fieldsOf(context) })
}

const fonts = new Map<string, Buffer<ArrayBuffer>>()
async function serveFont(context: Context, blog: ErrorPorts): Promise<Response> {
  const name = context.req.param('name') ?? ''
  const file = Object.hasOwn(FONTS, name) ? FONTS[name] : undefined
  if (!file) return noFile(blog)
  let bytes = fonts.get(name)
  if (!bytes) {
    bytes = await readFile(resolve(file))
    fonts.set(name, bytes)
  }
  return context.body(bytes, 200, {
    'content-type': 'font/woff2',
    'cache-control': IMMUTABLE,
    'access-control-allow-origin': '*',
  })
}

async function serveAsset(context: Context, blog: ErrorPorts): Promise<Response> {
  const { site } = blog
  const name = context.req.param('name') ?? ''
  const text = site.definition.assets.get(name)
  const version = site.assetVersions.get(name)
  if (text === undefined || version === undefined) return noFile(blog)
  return await sendFile(
    {
      bytes: new TextEncoder().encode(text),
      etag: `"${version}"`,
      headers: {
        'content-type': ASSET_TYPES[name.split('.').at(-1) ?? ''] ?? 'application/octet-stream',
        'cache-control': context.req.query('v') === version ? IMMUTABLE : 'no-cache',
        'x-content-type-options': 'nosniff',
      },
    },
    { method: context.req.method, field: fieldsOf(context) },
  )
}

async function serveSubscription(
  context: Context,
  blog: ErrorPorts & CursorKeyPort & DatabasePort,
  request: BlogRequest,
): Promise<Response> {
  try {
    return respond(await subscriptionPage(blog, request, context.req.param('name') ?? ''))
  } catch (error) {
    if (!isOutage(error)) throw error
    return respond(errorPage(blog, UNAVAILABLE))
  }
}

function serveAvatar(context: Context, blog: ErrorPorts): Response {
  const [, code = ''] = /^([\w-]+)\.svg$/.exec(context.req.param('name') ?? '') ?? []
  const image = drawAvatar(code)
  return image === undefined
    ? noFile(blog)
    : new Response(image, {
        headers: {
          'content-type': 'image/svg+xml',
          'cache-control': IMMUTABLE,
          'x-content-type-options': 'nosniff',
        },
      })
}

/** Answers with an image, or with one of its sizes. */
async function imageResponse(
  context: Context,
  blog: DatabasePort & ImagesPort & ErrorPorts,
): Promise<Response> {
  const { name = '', size } = context.req.param() as { name?: string; size?: string }
  const sent = { method: context.req.method, field: fieldsOf(context) }
  try {
    const response =
      size === undefined ? await serveImage(blog, name, sent) : await serveImageSize(blog, name, size, sent)
    return response ?? noFile(blog)
  } catch (error) {
    if (!isOutage(error)) throw error
    return respond(errorPage(blog, UNAVAILABLE))
  }
}

/** Returns the message of Node.js; undefined for requests that did not come over a connection. */
const messageOf = ({ env }: Context): IncomingMessage | undefined =>
  (env as { incoming?: IncomingMessage } | undefined)?.incoming

/** Returns the request target as it was sent. */
const sentTarget = (context: Context): string | undefined => messageOf(context)?.url

/** Reads fields as Node.js has parsed them. Making the `Headers` of a request takes longer than answering from a copy. */
function fieldsOf(context: Context): (name: string) => string | undefined {
  const message = messageOf(context)
  if (!message) return (name) => context.req.header(name)
  return (name) => {
    const value = message.headers[name]
    return Array.isArray(value) ? value.join(', ') : value
  }
}

/** Returns the client's address; null for requests that did not come over a connection. */
function clientOf(context: Context, proxies: BlockList | undefined): string | null {
  const address = messageOf(context)?.socket.remoteAddress
  return address === undefined ? null : readerAddress(address, fieldsOf(context)('x-forwarded-for'), proxies)
}
