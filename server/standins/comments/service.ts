/** The service over HTTP, on loopback and under its own origin. */
import { randomBytes, randomUUID } from 'node:crypto'
import { createServer } from 'node:http'
import { getRequestListener } from '@hono/node-server'
import { Hono, type Context } from 'hono'
import { bodyLimit } from 'hono/body-limit'
import { isSameText } from '../same-text.ts'
import { EMBED, THREAD_POLICY, threadPage, type ThreadPage } from './pages.ts'
import { STATES, Threads, type State, type ThreadComment } from './threads.ts'

export interface CommentService {
  origin: string
  /** The key that authorises moderation, export and import. */
  key: string
  close(): Promise<void>
}

const SITE = /^[a-z0-9-]{1,60}$/
/** The maximum length of an identifier, which may be an address. */
const LONGEST_THREAD = 1_000
/** The maximum number of comments per minute, from all clients. */
const RATE = 60
/** The maximum number of comments on the page of a thread. It shows the latest. */
const SHOWN = 500
/** The maximum number of comments of an answer or of an import. */
const BATCH = 1_000

/** @param file the file of the threads */
export async function startCommentService(file: string): Promise<CommentService> {
  const key = randomBytes(24).toString('base64url')
  const app = serviceApp(new Threads(file), key)
  const server = createServer(getRequestListener(app.fetch, { hostname: '127.0.0.1' }))
  await new Promise<void>((ready, fail) => {
    server.once('error', fail)
    server.listen(0, '127.0.0.1', ready)
  })
  const address = server.address()
  const port = typeof address === 'object' && address ? address.port : 0
  return {
    origin: `http://127.0.0.1:${port}`,
    key,
    close: () =>
      new Promise((done) => {
        server.close(() => done())
        server.closeAllConnections()
      }),
  }
}

function serviceApp(threads: Threads, key: string): Hono {
  const app = new Hono()
  let sent: number[] = []
  app.use(async (context, next) => {
    await next()
    context.header('x-content-type-options', 'nosniff')
    context.header('cache-control', 'no-store')
  })
  app.get('/embed.js', (context) =>
    context.body(EMBED, 200, { 'content-type': 'text/javascript; charset=utf-8' }),
  )
  app.get('/thread', (context) => {
    const asked = placeOf((name) => context.req.query(name))
    if (!asked) return context.text('The thread is not named.', 400)
    const note = context.req.query('sent') === undefined ? {} : { note: 'Your comment was added.' }
    return page(context, { ...asked, ...note, ...threads.thread(asked.site, asked.thread, SHOWN) })
  })
  app.post('/thread', bodyLimit({ maxSize: 32 * 1024 }), async (context) => {
    // The form is on the service's own page, so its Origin is the service.
    if (context.req.header('origin') !== new URL(context.req.url).origin) return context.text('Refused', 403)
    const fields = new URLSearchParams(await context.req.text())
    const asked = placeOf((name) => fields.get(name) ?? undefined)
    if (!asked) return context.text('The thread is not named.', 400)
    const name = (fields.get('name') ?? '').trim().slice(0, 80)
    const text = (fields.get('text') ?? '').replace(/\r\n?/g, '\n').trim().slice(0, 4_000)
    const again = (status: 422 | 429 | 507, error: string) =>
      page(
        context,
        {
          ...asked,
          ...threads.thread(asked.site, asked.thread, SHOWN),
          typed: { name, text, parent: '', error },
        },
        status,
      )
    if (name === '' || text === '') return again(422, 'Enter a name and a comment.')
    const now = Date.now()
    sent = sent.filter((one) => one > now - 60_000)
    if (sent.length >= RATE)
      return again(429, 'There are too many comments at the moment. Try again in a minute.')
    sent.push(now)
    const { site, thread } = asked
    const comment = {
      ...{ key: randomUUID(), site, thread, parent: null, name, text },
      ...{ at: new Date().toISOString(), state: 'shown' as const },
    }
    const added = await threads.add([comment])
    if (added === undefined) return again(507, 'There is no room for more comments.')
    return context.redirect(
      `/thread?${new URLSearchParams({ ...asked, sent: '1' }).toString()}#${comment.key}`,
      303,
    )
  })
  app.use('/api/*', async (context, next) => {
    const given = (context.req.header('authorization') ?? '').replace(/^Bearer /, '')
    if (!isSameText(given, key)) return context.json({ error: 'The key is not valid.' }, 401)
    return await next()
  })
  app.use('/api/*', bodyLimit({ maxSize: BATCH * 64 * 1024 }))
  app.get('/api/comments', (context) => {
    const site = context.req.query('site') ?? ''
    const from = Number(context.req.query('from') ?? 0)
    const limit = Math.min(BATCH, Number(context.req.query('limit') ?? BATCH))
    if (!SITE.test(site) || !Number.isInteger(from) || from < 0 || !Number.isInteger(limit) || limit < 0)
      return context.json({ error: 'site, from and limit are not valid.' }, 400)
    const { comments, total } = threads.list(site, from, limit)
    return context.json({ comments: comments.map(({ site: _, ...one }) => one), total })
  })
  app.post('/api/comments', async (context) => {
    const body: unknown = await context.req.json().catch(() => undefined)
    const { site, comments } = (body ?? {}) as { site?: unknown; comments?: unknown }
    if (
      typeof site !== 'string' ||
      !SITE.test(site) ||
      !Array.isArray(comments) ||
      !comments.every(isComment)
    )
      return context.json({ error: 'The comments are not valid.' }, 400)
    const added = await threads.add(comments.map((one) => ({ ...one, site })))
    return added === undefined
      ? context.json({ error: 'There is no room for these comments.' }, 507)
      : context.json({ added, known: comments.length - added })
  })
  app.post('/api/moderate', async (context) => {
    const body: unknown = await context.req.json().catch(() => undefined)
    const { site, comment, state } = (body ?? {}) as Record<string, unknown>
    if (typeof site !== 'string' || typeof comment !== 'string' || !STATES.includes(state as State))
      return context.json({ error: 'site, comment and state are needed.' }, 400)
    const isDone = await threads.moderate(site, comment, state as State)
    return isDone ? context.json({ state }) : context.json({ error: 'There is no such comment.' }, 404)
  })
  return app
}

type Place = Record<'site' | 'thread' | 'address' | 'title', string>

function placeOf(value: (name: string) => string | undefined): Place | undefined {
  const [site = '', thread = '', address = '', title = ''] = ['site', 'thread', 'address', 'title'].map(value)
  return SITE.test(site) && thread !== '' && thread.length <= LONGEST_THREAD
    ? { site, thread, address: address.slice(0, LONGEST_THREAD), title: title.slice(0, 300) }
    : undefined
}

const page = (context: Context, shown: ThreadPage, status: 200 | 422 | 429 | 507 = 200) =>
  context.html(threadPage(shown), status, {
    'content-security-policy': THREAD_POLICY,
    // Without any, a browser would send the form with the Origin “null” (Fetch, §3.2).
    'referrer-policy': 'same-origin',
  })

function isComment(value: unknown): value is Omit<ThreadComment, 'site'> {
  if (typeof value !== 'object' || value === null) return false
  const one = value as Record<string, unknown>
  const isText = (name: string, most: number) => {
    const text = one[name]
    return typeof text === 'string' && text !== '' && text.length <= most
  }
  return (
    isText('key', 100) &&
    isText('thread', LONGEST_THREAD) &&
    (one['parent'] === null || isText('parent', 100)) &&
    isText('name', 400) &&
    isText('text', 20_000) &&
    isText('at', 40) &&
    !Number.isNaN(Date.parse(String(one['at']))) &&
    STATES.includes(one['state'] as State)
  )
}
