/** The workbench over HTTP: sign-in, API, live requests, and the built pages. */
import { Hono } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { streamSSE, type SSEStreamingApi } from 'hono/streaming'
import { IMAGE_LIMIT } from '../author/images/images.ts'
import { health } from '../reader/listener.ts'
import { isNullCharacter, isOutage } from '../store/connection.ts'
import { QueryFailure } from '../store/statements/run-query.ts'
import { addDownloads } from './content/downloads.ts'
import { makeHandlers, type Services } from './handlers.ts'
import { servePage } from './http/built-pages.ts'
import { Sessions } from './http/sessions.ts'
import { Guard } from './http/guard.ts'
import { addOperations } from './http/operations.ts'
import { REQUEST_PROBLEMS } from './http/problems.ts'
import { isObject, refuse } from './http/responses.ts'
import { openApiDocument } from './openapi.ts'

export interface WorkbenchOptions extends Omit<Services, 'sessions'> {
  key: string
  /** The values of Host under which it is available. */
  hosts: string[]
  /** The folder of the built pages. */
  pages: string
}

const MEGABYTE = 1024 * 1024
const BODY_LIMIT = 3 * MEGABYTE
/** A little more than the largest image, which is refused with a reason. */
const UPLOAD_LIMIT = IMAGE_LIMIT + MEGABYTE
/** How often an idle stream of requests sends a sign of life, in milliseconds. */
const HEARTBEAT = 15_000

export function workbenchListener(options: WorkbenchOptions): Hono {
  const { blog } = options
  const app = new Hono()
  const sessions = new Sessions(blog.database)
  const guard = new Guard(options.key, options.hosts, sessions)
  app.get('/healthz', (context) => health(context, blog))
  // Nothing of the API is kept by a browser or a proxy, or taken for something else than it is.
  app.use('/api/*', async (context, next) => {
    await next()
    context.header('cache-control', 'no-store')
    context.header('x-content-type-options', 'nosniff')
  })
  app.use(guard.place)
  const limit = (maxSize: number) =>
    bodyLimit({
      maxSize,
      onError: (context) => refuse(context, 413, REQUEST_PROBLEMS['request-too-large'](maxSize / MEGABYTE)),
    })
  const limits = { upload: limit(UPLOAD_LIMIT), other: limit(BODY_LIMIT) }
  app.use('/api/*', (context, next) =>
    context.req.path === '/api/image' ? limits.upload(context, next) : limits.other(context, next),
  )
  app.post('/api/sign-in', async (context) => {
    const body: unknown = await context.req.json().catch(() => undefined)
    const key = isObject(body) && typeof body['key'] === 'string' ? body['key'] : ''
    if (!guard.isKey(key)) return guard.refuseKey(context)
    return context.json({ secret: await guard.signIn(context) })
  })
  app.post('/api/sign-out', async (context) => {
    await guard.signOut(context)
    return context.json({ status: 'signed out' })
  })
  // The same for everybody, and opened in a tab of its own.
  app.get('/api/openapi.json', (context) => context.json(openApiDocument()))
  app.use('/api/*', guard.signedIn)
  app.get('/api/traffic/stream', (context) =>
    streamSSE(context, async (stream) => {
      const end = blog.traffic.watch(
        (entry) => void stream.writeSSE({ event: 'request', data: JSON.stringify(entry) }),
      )
      stream.onAbort(end)
      await keepAlive(stream)
    }),
  )
  app.get('/api/comments/stream', (context) =>
    streamSSE(context, async (stream) => {
      const end = blog.watchChanges((what) => {
        if (what === 'comments') void stream.writeSSE({ event: 'changed', data: '{}' })
      })
      stream.onAbort(end)
      await keepAlive(stream)
    }),
  )
  addDownloads(app, blog)
  addOperations(app, makeHandlers({ ...options, sessions }))
  app.all('/api/*', (context) => refuse(context, 404, REQUEST_PROBLEMS['operation-unknown']()))
  app.get('*', (context) => servePage(options, context.req.path, context.req.header('accept-encoding')))
  app.onError((error, context) => {
    if (isOutage(error) || (error instanceof QueryFailure && isOutage(error.cause)))
      return refuse(context, 503, REQUEST_PROBLEMS['database-unavailable']())
    if (isNullCharacter(error)) return refuse(context, 400, REQUEST_PROBLEMS['request-null-character']())
    blog.log.error(
      { path: context.req.path, error: error.stack ?? error.message },
      'workbench request failed',
    )
    return refuse(context, 500, REQUEST_PROBLEMS['internal-error'](error.message))
  })
  return app
}

/** Greets the client, and gives signs of life until it leaves. */
async function keepAlive(stream: SSEStreamingApi): Promise<void> {
  await stream.writeSSE({ event: 'hello', data: '{}' })
  while (!stream.aborted) {
    await stream.sleep(HEARTBEAT)
    await stream.writeSSE({ event: 'heartbeat', data: '{}' })
  }
}
