/** The workbench over HTTP: sign-in, API, live requests, and the built pages. */
import { readFile } from 'node:fs/promises'
import { extname, join, normalize } from 'node:path'
import { gzipSync } from 'node:zlib'
import { Ajv, type ValidateFunction } from 'ajv'
import addFormats from 'ajv-formats'
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { streamSSE } from 'hono/streaming'
import { explainErrors } from '../../core/shapes/explain-errors.ts'
import { IMAGE_LIMIT } from '../author/images/images.ts'
import { isNoText, isOutage } from '../store/connection.ts'
import type { Blog } from '../reader/blog.ts'
import type { Checks } from '../checks/service.ts'
import type { OwnIndexes } from '../store/indexes/own-indexes.ts'
import type { GrowthJobs } from '../growth/job.ts'
import { health } from '../reader/listener.ts'
import { QueryFailure } from '../store/statements/run-query.ts'
import { operations, type OperationName } from '../../contract/operations.ts'
import { Guard, problem } from './http/guard.ts'
import { addDownloads } from './content/downloads.ts'
import { makeHandlers } from './handlers.ts'
import { Refusal } from './http/refusal.ts'
import { openApiDocument } from './openapi.ts'

export interface WorkbenchOptions {
  blog: Blog
  checks: Checks
  growth: GrowthJobs
  indexes: OwnIndexes
  key: string
  /** Values of Host under which it is reached. */
  hosts: string[]
  /** Where readers reach the blog. */
  blogOrigin: string
  /** Folder of the built pages. */
  pages: string
}

const BODY_LIMIT = 3 * 1024 * 1024
/** A little more than the largest picture, which is refused with a reason. */
const UPLOAD_LIMIT = IMAGE_LIMIT + 1024 * 1024
const TYPES: Readonly<Record<string, string>> = {
  '.html': 'text/html; charset=utf-8',
  '.js': 'text/javascript; charset=utf-8',
  '.css': 'text/css; charset=utf-8',
  '.svg': 'image/svg+xml',
  '.woff2': 'font/woff2',
  '.woff': 'font/woff',
}

export function workbenchListener(options: WorkbenchOptions): Hono {
  const { blog } = options
  const app = new Hono()
  const guard = new Guard(options.key, options.hosts)
  app.get('/healthz', (context) => health(context, blog))
  app.use(guard.place)
  app.get('/sign-in', (context) => {
    const key = context.req.query('key')
    if (key !== undefined && guard.accepts(key)) {
      guard.signIn(context)
      return context.redirect('/', 303)
    }
    return servePage(options, '/index.html', context.req.header('accept-encoding'))
  })
  const limit = (maxSize: number) =>
    bodyLimit({
      maxSize,
      onError: (context) =>
        problem(context, {
          status: 413,
          title: 'The request is too large',
          detail: `It may have ${maxSize / 1024 / 1024} MB.`,
        }),
    })
  const limits = { upload: limit(UPLOAD_LIMIT), other: limit(BODY_LIMIT) }
  app.use('/api/*', (context, next) =>
    context.req.path === '/api/image' ? limits.upload(context, next) : limits.other(context, next),
  )
  app.post('/api/sign-in', async (context) => {
    const body: unknown = await context.req.json().catch(() => undefined)
    const key = isObject(body) && typeof body['key'] === 'string' ? body['key'] : ''
    if (!guard.accepts(key))
      return problem(context, {
        status: 401,
        title: 'This is not the key',
        detail: 'It is printed where Esquina was started.',
      })
    guard.signIn(context)
    return context.json({ status: 'signed in' })
  })
  app.post('/api/sign-out', (context) => {
    guard.signOut(context)
    return context.json({ status: 'signed out' })
  })
  app.use('/api/*', guard.signedIn)
  app.get('/api/openapi.json', (context) => context.json(openApiDocument()))
  app.get('/api/traffic/stream', (context) =>
    streamSSE(context, async (stream) => {
      const end = blog.traffic.watch(
        (entry) => void stream.writeSSE({ event: 'request', data: JSON.stringify(entry) }),
      )
      stream.onAbort(end)
      await stream.writeSSE({ event: 'hello', data: '{}' })
      while (!stream.aborted) {
        await stream.sleep(15_000)
        await stream.writeSSE({ event: 'still-here', data: '{}' })
      }
    }),
  )
  addDownloads(app, blog)
  addOperations(app, options)
  app.all('/api/*', (context) =>
    problem(context, { status: 404, title: 'There is no such operation', detail: 'See /api/openapi.json.' }),
  )
  app.get('*', (context) => servePage(options, context.req.path, context.req.header('accept-encoding')))
  app.onError((error, context) => {
    if (isOutage(error) || (error instanceof QueryFailure && isOutage(error.cause)))
      return problem(context, { status: 503, title: 'The database does not answer' })
    if (isNoText(error))
      return problem(context, {
        status: 400,
        title: 'A null character is in what was sent: no text can have one',
      })
    blog.log.error(
      { path: context.req.path, error: error.stack ?? error.message },
      'workbench request failed',
    )
    return problem(context, { status: 500, title: 'Something went wrong', detail: error.message })
  })
  return app
}

function addOperations(app: Hono, services: WorkbenchOptions): void {
  const ajv = new Ajv({ allErrors: true, coerceTypes: false, strict: false, verbose: true })
  addFormats(ajv)
  const handlers = makeHandlers(services)
  for (const [key, operation] of Object.entries(operations)) {
    const [method = 'GET', path = '/'] = key.split(' ')
    const checkQuery = 'query' in operation ? ajv.compile(operation.query) : undefined
    const isUpload = 'upload' in operation
    const checkBody = 'body' in operation && !isUpload ? ajv.compile(operation.body) : undefined
    const handler = handlers[key as OperationName] as (input: { query: unknown; body: unknown }) => unknown
    app.on(method, path, async (context) => {
      const query = context.req.query()
      const sent: unknown = isUpload
        ? new Uint8Array(await context.req.arrayBuffer())
        : checkBody
          ? await context.req.json().catch(() => undefined)
          : undefined
      const condition = context.req.header('if-match')
      const body = needsVersion(operation) ? withVersion(sent, condition) : sent
      if (needsVersion(operation) && isObject(body) && body['version'] === undefined)
        return problem(context, {
          status: 428,
          title: 'Which version is this a change of?',
          detail: 'Send If-Match with the ETag that was read, or “version” in the body.',
        })
      const wrong = explainInput(checkQuery, query, 'query') ?? explainInput(checkBody, body, 'body')
      if (wrong !== undefined)
        return problem(context, { status: 400, title: 'The request is not valid', detail: wrong })
      try {
        const answer = await handler({ query, body })
        // RFC 9110 §8.8.3: the version as a strong validator.
        if (isObject(answer) && isVersioned(key)) context.header('etag', `"${String(answer['version'])}"`)
        return context.json(answer)
      } catch (error) {
        // RFC 9110 §13.1.1: a condition that does not hold is 412; without one, the conflict is 409.
        if (error instanceof Refusal)
          return problem(
            context,
            error.details.status === 409 && condition !== undefined
              ? { ...error.details, status: 412 }
              : error.details,
          )
        throw error
      }
    })
  }
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Operations on one post, page or term, whose version is its entity tag. */
const isVersioned = (key: string) =>
  /^(GET|PUT) \/api\/(post|page|term)$|^POST \/api\/(posts|pages|terms)$/.test(key)

const needsVersion = (operation: object): boolean =>
  'body' in operation &&
  isObject(operation.body) &&
  isObject(operation.body['properties']) &&
  'version' in operation.body['properties']

/** The version of `If-Match: "7"`, where the body has none. */
function withVersion(body: unknown, condition: string | undefined): unknown {
  const version = /^"(\d{1,9})"$/.exec(condition ?? '')?.[1]
  return isObject(body) && body['version'] === undefined && version !== undefined
    ? { ...body, version: Number(version) }
    : body
}

function explainInput(check: ValidateFunction | undefined, value: unknown, what: string): string | undefined {
  if (!check || check(value)) return undefined
  return explainErrors(check.errors ?? [])
    .map(({ pointer, message }) => `${what}${pointer === '/' ? '' : pointer}: ${message}`)
    .join('; ')
}

interface File {
  type: string
  plain: Buffer<ArrayBuffer>
  packed: Buffer<ArrayBuffer>
}
const files = new Map<string, File>()

/** A built file, or the workbench's page for every other path: its router reads the address. */
async function servePage(
  { pages, blogOrigin }: WorkbenchOptions,
  path: string,
  accept = '',
): Promise<Response> {
  const isFile = /^\/(assets|favicon)[^?]*\.\w+$/.test(path) && !normalize(path).includes('..')
  const name = isFile ? path : '/index.html'
  let file = files.get(join(pages, name))
  if (!file) {
    try {
      const plain = await readFile(join(pages, name))
      file = { type: TYPES[extname(name)] ?? 'application/octet-stream', plain, packed: gzipSync(plain) }
    } catch {
      return new Response('Not found', { status: 404 })
    }
    if (isFile) files.set(join(pages, name), file)
  }
  const headers: Record<string, string> = {
    'content-type': file.type,
    'cache-control': isFile ? 'public, max-age=31536000, immutable' : 'no-store',
    'x-content-type-options': 'nosniff',
    'referrer-policy': 'no-referrer',
    vary: 'accept-encoding',
    // The walked page is shown in a frame without scripts, which inherits this policy; its styles, fonts and
    // images come from the blog's own address. Inline styles: Ant Design writes its styles at run time.
    'content-security-policy': `default-src 'none'; script-src 'self'; connect-src 'self'; style-src 'self' 'unsafe-inline' ${blogOrigin}; font-src 'self' ${blogOrigin}; img-src 'self' data: ${blogOrigin}; frame-src 'self' about:; base-uri 'self' ${blogOrigin}; form-action 'self'; frame-ancestors 'none'`,
  }
  if (!/\bgzip\b/.test(accept)) return new Response(file.plain, { headers })
  return new Response(file.packed, { headers: { ...headers, 'content-encoding': 'gzip' } })
}
