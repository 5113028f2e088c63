// An edge cache in front of the blog stores pages that are refreshed on change, and is purged on change.
import { createServer, request, type Server } from 'node:http'
import { connect, createServer as createProxy } from 'node:net'
import { getRequestListener } from '@hono/node-server'
import { Client } from 'pg'
import { parseList } from 'structured-headers'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { Blog } from '../reader/blog.ts'
import { LEASE_WAIT } from '../../core/caching/lease.ts'
import { answer } from '../reader/answer.ts'
import { internalRequest } from '../reader/request.ts'
import { Walk } from '../reader/walk/walk.ts'
import { blogListener } from '../reader/listener.ts'
import { addOrigins } from '../processes/serve-blog.ts'
import { freePort } from '../store/cluster.ts'
import { openDatabase } from '../store/connection.ts'
import { startEdge, type EdgeStandIn } from '../standins/edge/server.ts'
import { quiet, testBlog, type TestBlog } from '../testing/database.ts'
import { editPost, saveTexts } from '../testing/edits.ts'
import { EdgeService } from './edge.ts'

const SLUG = 'truing-a-wheel-with-two-spoons'
let test: TestBlog
let origin: Server
let edge: EdgeStandIn
let service: EdgeService
/** Another process, which serves readers. `test.blog` writes. */
let second: Blog
let unfollow: (() => Promise<void>)[] = []
let outside: Client
/** Requests that reached the blog, and a delay of its responses. */
let asked: string[] = []
let delay: (() => Promise<void>) | undefined
let edgePort: number

const listenAt = (port = 0) =>
  startEdge({ blog: () => ({ host: '127.0.0.1', port: portOf(origin) }), host: '127.0.0.1', port })
const portOf = (server: Server) => (server.address() as { port: number }).port

beforeAll(async () => {
  test = await testBlog()
  const database = await openDatabase(test.url)
  second = new Blog({ database, site: test.blog.site, log: quiet, cursorKey: test.blog.cursorKey })
  unfollow = [await test.blog.follow(), await second.follow()]
  const listener = getRequestListener(blogListener(second).fetch)
  origin = createServer((request, response) => {
    asked.push(`${request.method} ${request.url}`)
    const end = response.end.bind(response) as (...words: unknown[]) => typeof response
    // The response is complete, but in flight.
    response.end = ((...words: unknown[]) => {
      void (delay?.() ?? Promise.resolve()).then(() => end(...words))
      return response
    }) as typeof response.end
    void listener(request, response)
  })
  await new Promise<void>((done) => origin.listen(0, '127.0.0.1', done))
  edge = await listenAt()
  edgePort = edge.port
  addOrigins(second, '127.0.0.1', edge.port)
  outside = new Client({ connectionString: test.url })
  await outside.connect()
  service = new EdgeService(test.blog, test.url, { url: edge.purgeUrl, key: edge.key })
  await service.start()
  expect(service.state).toBe(null)
  await rule('10m')
})
afterAll(async () => {
  await service.stop()
  await edge.close()
  origin.closeAllConnections()
  origin.close()
  await outside.end()
  for (const end of unfollow) await end()
  await second.database.destroy()
  await test.close()
})
beforeEach(() => {
  asked = []
})

const rule = async (lifetime: string | null) => {
  const saved = await saveTexts(test.blog, {
    'cache.yaml': lifetime === null ? null : `edge: { lifetime: ${lifetime} }\n`,
  })
  expect(saved.ok).toBe(true)
  const isInForce = () =>
    lifetime === null
      ? service.state === null && !second.purgesEdge
      : service.state?.isCurrent === true && second.purgesEdge
  for (let look = 0; !isInForce(); look++) {
    if (look > 500) throw new Error('The rule has no effect.')
    await new Promise((done) => setTimeout(done, 10))
  }
}
const get = async (path: string, headers: Record<string, string> = {}) => {
  const response = await fetch(`${edge.origin}${path}`, { headers, redirect: 'manual' })
  return { status: response.status, headers: response.headers, body: await response.text() }
}
/** Repeats a request until the edge cache answers it. */
const kept = async (path: string, headers: Record<string, string> = {}) => {
  // A purge after SQL may be pending, and a slow machine may miss the time limit of a purge.
  for (let attempt = 0; attempt < 500; attempt++) {
    const answer = await get(path, headers)
    if (answer.headers.get('cache-status')?.includes('edge; hit') === true) return answer
    if (attempt > 2) await new Promise((done) => setTimeout(done, 20))
  }
  throw new Error(`${path} is not kept.`)
}
let titles = 0
const retitle = async () => {
  const title = `Title at the edge ${++titles}`
  const saved = await editPost(test.blog, SLUG, (text) => text.replace(/^title: .*$/m, `title: ${title}`))
  expect(saved.ok).toBe(true)
  return title
}

describe('a page that is refreshed on change', () => {
  it('is served without the blog, and is fresh once a write is acknowledged', async () => {
    for (let round = 0; round < 10; round++) {
      await kept('/posts')
      let isWriting = true
      // Readers make the edge cache fetch the page in the meantime.
      const reading = (async () => {
        while (isWriting) await Promise.all([get('/posts'), get('/posts')])
      })()
      const title = await retitle()
      expect((await get('/posts')).body).toContain(title)
      isWriting = false
      await reading
      expect((await get('/posts')).body).toContain(title)
      await kept('/posts')
      asked = []
      expect((await kept('/posts')).body).toContain(title)
      expect(asked).toEqual([])
    }
  })

  it('is not purged by a change that does not affect it', async () => {
    await kept('/posts')
    await kept('/archive')
    await editPost(test.blog, 'moth', (text) => `${text}\nOne more paragraph.\n`)
    asked = []
    // The archive shows titles only.
    await get('/posts')
    await get('/archive')
    expect(service.state?.lastGroups).toContain('posts.html')
    expect(asked).not.toContain('GET /archive')
  })

  it('is stored once per encoding and content type', async () => {
    const page = await kept('/posts', { 'accept-encoding': 'br' })
    const gzip = await kept('/posts', { 'accept-encoding': 'gzip;q=0.5' })
    const plain = await kept('/posts', { 'accept-encoding': 'identity' })
    expect([page.body, gzip.body]).toEqual([plain.body, plain.body])
    expect([page, gzip, plain].map((one) => one.headers.get('content-encoding'))).toEqual([
      'br',
      'gzip',
      null,
    ])
    const data = await kept('/posts', { accept: 'application/json' })
    expect(JSON.parse(data.body)).toBeTruthy()
    expect((await kept('/posts', { accept: 'text/html' })).body).toBe(plain.body)
    const title = await retitle()
    for (const headers of [{ 'accept-encoding': 'br' }, { accept: 'application/json' }] as Record<
      string,
      string
    >[])
      expect((await get('/posts', headers)).body).toContain(title)
  })

  it('is sent without the fields for the edge cache, and can be revalidated', async () => {
    const { headers } = await kept('/posts')
    expect([headers.get('cdn-cache-control'), headers.get('cache-groups')]).toEqual([null, null])
    expect(headers.get('cache-control')).toBe('no-cache')
    asked = []
    // `fetch` would add `Cache-Control: no-cache`.
    const again = await new Promise<number | undefined>((done) =>
      request(
        `${edge.origin}/posts`,
        { headers: { 'if-none-match': headers.get('etag') ?? '', accept: '*/*', 'accept-encoding': 'gzip' } },
        (response) => done(response.resume().statusCode),
      ).end(),
    )
    expect([again, asked]).toEqual([304, []])
    const head = await fetch(`${edge.origin}/posts`, { method: 'HEAD' })
    expect(head.headers.get('etag')).toBe(headers.get('etag'))
  })

  it('is sent to the edge cache with its lifetime and its groups, in standard fields', async () => {
    const direct = async () => (await fetch(`http://127.0.0.1:${portOf(origin)}/posts`)).headers
    await direct()
    const headers = await direct()
    expect(headers.get('cdn-cache-control')).toMatch(/^max-age=\d+$/)
    const groups = parseList(headers.get('cache-groups') ?? '').map(([one]) => one)
    expect(groups).toEqual(expect.arrayContaining(['posts+', 'posts.publishedAt']))
    expect(groups.some((one) => /^posts:\d+$/.test(String(one)))).toBe(true)
    // A 304 has both fields, too.
    const validated = await fetch(`http://127.0.0.1:${portOf(origin)}/posts`, {
      headers: { 'if-none-match': headers.get('etag') ?? '' },
    })
    expect([validated.status, validated.headers.get('cache-groups')]).toEqual([
      304,
      headers.get('cache-groups'),
    ])
  })

  it('is fresh within a second after SQL, and at once after a change of the definition', async () => {
    await kept('/posts')
    await outside.query("UPDATE post SET title = 'At the edge by hand' WHERE slug = $1", [SLUG])
    await expect
      .poll(async () => (await get('/posts')).body.includes('At the edge by hand'), {
        timeout: 1_000,
        interval: 20,
      })
      .toBe(true)
    await kept('/posts')
    const { text } = (
      await outside.query<{ text: string }>("SELECT text FROM document WHERE path = 'blog.yaml'")
    ).rows[0] ?? { text: '' }
    await saveTexts(test.blog, { 'blog.yaml': text.replace(/^title: .*$/m, 'title: Café at the edge') })
    expect((await get('/posts')).body).toContain('Café at the edge')
    await saveTexts(test.blog, { 'blog.yaml': text })
  })

  it('expires when a scheduled post becomes due', async () => {
    await kept('/posts')
    await outside.query(
      "UPDATE post SET published_at = now() + interval '2500 ms', title = 'Due at the edge' WHERE slug = 'moth'",
    )
    await second.catchUp()
    await expect
      .poll(() => service.state?.lastGroups?.includes('posts.publishedAt'), { timeout: 2_000 })
      .toBe(true)
    const due = performance.now() + 2_500
    while (performance.now() < due - 600) expect((await get('/posts')).body).not.toContain('Due at the edge')
    await new Promise((done) => setTimeout(done, 700))
    expect((await get('/posts')).body).toContain('Due at the edge')
  })
})

it('a walk shows that the edge cache may store the page', async () => {
  const asked = internalRequest('/posts')
  const walk = new Walk(asked, second.clock(), second.site.version)
  await answer(second, asked, walk)
  expect(walk.record.copy).toContain('The edge cache may store it for up to 600 s, and is purged on change.')
})

it('a response that was in flight during its purge is not stored', async () => {
  await retitle()
  let release: () => void = () => undefined
  const held = new Promise<void>((done) => (release = done))
  delay = () => held
  const old = get('/posts')
  await expect.poll(() => asked.length).toBe(1)
  await new Promise((done) => setTimeout(done, 100))
  delay = undefined
  const title = await retitle()
  release()
  expect((await old).body).not.toContain(title)
  expect((await get('/posts')).body).toContain(title)
})

it('is purged after all processes have applied the change, and before the write is acknowledged', async () => {
  await kept('/posts')
  // A process that does not respond could still send the stale page to the edge cache.
  await outside.query('INSERT INTO copy_process (id) VALUES (gen_random_uuid())')
  const { purges } = edge.counts
  const saving = retitle()
  await new Promise((done) => setTimeout(done, LEASE_WAIT - 300))
  expect(edge.counts.purges).toBe(purges)
  const title = await saving
  expect(edge.counts.purges).toBeGreaterThan(purges)
  expect((await get('/posts')).body).toContain(title)
})

it('pages with a form are not stored, and a comment can be sent through the edge cache', async () => {
  const path = `/posts/${SLUG}`
  const pages = [await get(path), await get(path), await get(path)]
  const tokens = pages.map(({ body }) => /name="token" value="([^"]+)"/.exec(body)?.[1])
  expect(new Set(tokens).size).toBe(3)
  expect(new Set(pages.map((one) => one.headers.get('set-cookie'))).size).toBe(3)
  const cookie = pages[0]?.headers.get('set-cookie')?.split(';')[0] ?? ''
  const sent = await fetch(`${edge.origin}${path}/comments`, {
    method: 'POST',
    redirect: 'manual',
    headers: { cookie, origin: edge.origin, 'content-type': 'application/x-www-form-urlencoded' },
    body: new URLSearchParams({ name: 'Vera', text: 'Through the edge', token: tokens[0] ?? '' }),
  })
  expect(sent.status).toBe(303)
})

it('a page that is refreshed by age is served for its lifetime, whatever changes', async () => {
  await saveTexts(test.blog, {
    'cache.yaml': 'edge: { lifetime: 10m }\npages:\n  posts: { refresh: by-age, lifetime: 3s }\n',
  })
  const before = await kept('/posts')
  const title = await retitle()
  expect((await get('/posts')).body).toBe(before.body)
  await expect.poll(async () => (await get('/posts')).body.includes(title), { timeout: 5_000 }).toBe(true)
  await rule('10m')
})

it('404 pages are stored until a page gets their address', async () => {
  await kept('/posts/soon-at-the-edge')
  await outside.query("UPDATE post SET slug = 'soon-at-the-edge' WHERE slug = 'moth'")
  await expect.poll(async () => (await get('/posts/soon-at-the-edge')).status, { timeout: 2_000 }).toBe(200)
  await outside.query("UPDATE post SET slug = 'moth' WHERE slug = 'soon-at-the-edge'")
  await expect.poll(async () => (await get('/posts/soon-at-the-edge')).status, { timeout: 2_000 }).toBe(404)
})

describe('an edge cache that cannot be purged', () => {
  it('must not store responses, does not delay writes, and is purged once it can be', async () => {
    const before = await kept('/posts')
    // It serves readers, but rejects purges.
    const url = edge.purgeUrl
    const deaf = new EdgeService(test.blog, test.url, {
      url: url.replace('/purge', '/nowhere'),
      key: edge.key,
    })
    await service.stop()
    await deaf.start()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(false)
    expect(deaf.state).toMatchObject({ isCurrent: false, error: 'The edge cache answers 404.' })
    const start = performance.now()
    const title = await retitle()
    expect(performance.now() - start).toBeLessThan(1_500)
    // It may serve stored responses for the lifetime in the rule.
    expect((await get('/posts')).body).toBe(before.body)
    const direct = await fetch(`http://127.0.0.1:${portOf(origin)}/posts`)
    expect(direct.headers.get('cdn-cache-control')).toBe(null)
    await deaf.stop()
    service = new EdgeService(test.blog, test.url, { url, key: edge.key })
    await service.start()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(true)
    expect((await get('/posts')).body).toContain(title)
    await kept('/posts')
  })

  it('is purged once the change log can be read', async () => {
    await service.stop()
    const port = await freePort()
    const url = new URL(test.url)
    const database = { host: url.hostname, port: Number(url.port) }
    url.port = String(port)
    service = new EdgeService(test.blog, url.href, { url: edge.purgeUrl, key: edge.key })
    await service.start()
    expect(service.state).toBe(null)
    const proxy = createProxy((client) => {
      const server = connect(database)
      server.on('error', () => client.destroy())
      client.on('error', () => server.destroy())
      client.pipe(server).pipe(client)
    }).listen(port, '127.0.0.1')
    await expect.poll(() => service.state?.isCurrent, { timeout: 10_000 }).toBe(true)
    await service.stop()
    proxy.close()
    service = new EdgeService(test.blog, test.url, { url: edge.purgeUrl, key: edge.key })
    await service.start()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(true)
  })

  it('must not store responses after the purging process has crashed', async () => {
    await service.stop()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(false)
    await outside.query('INSERT INTO copy_process (id, patience) VALUES (gen_random_uuid(), 4000)')
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(true)
    await expect.poll(() => second.purgesEdge, { timeout: 6_000 }).toBe(false)
    // A write waits for it once, and removes it.
    await retitle()
    expect((await outside.query('SELECT FROM copy_process WHERE patience IS NOT NULL')).rowCount).toBe(0)
    service = new EdgeService(test.blog, test.url, { url: edge.purgeUrl, key: edge.key })
    await service.start()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(true)
  })

  it('serves a response for no longer than the lifetime in the rule', async () => {
    await rule('2s')
    await kept('/posts')
    await service.stop()
    await outside.query("UPDATE post SET title = 'Nobody was told' WHERE slug = $1", [SLUG])
    await expect
      .poll(async () => (await get('/posts')).body.includes('Nobody was told'), { timeout: 4_000 })
      .toBe(true)
    service = new EdgeService(test.blog, test.url, { url: edge.purgeUrl, key: edge.key })
    await service.start()
    await rule('10m')
  })

  it('is purged again after it was replaced', async () => {
    await edge.close()
    edge = await listenAt(edgePort)
    await retitle()
    expect(service.state?.isCurrent).toBe(false)
    await service.stop()
    service = new EdgeService(test.blog, test.url, { url: edge.purgeUrl, key: edge.key })
    await service.start()
    await expect.poll(() => second.purgesEdge, { timeout: 3_000 }).toBe(true)
    await kept('/posts')
    const title = await retitle()
    expect((await get('/posts')).body).toContain(title)
  })
})

it('is purged and stores nothing once the rule is removed', async () => {
  await kept('/posts')
  await rule(null)
  expect(edge.copies(10)).toEqual({ copies: [], total: 0 })
  await get('/posts')
  expect((await get('/posts')).headers.get('cache-status')).not.toContain('edge; hit')
  await rule('10m')
})

describe('a purge request', () => {
  const purge = (body: string, headers: Record<string, string> = { authorization: `Bearer ${edge.key}` }) =>
    fetch(edge.purgeUrl, { method: 'POST', body, headers })
  it('needs the key and a valid body', async () => {
    expect((await purge('{"all":true}', {})).status).toBe(401)
    expect((await purge('{"all":true}', { authorization: 'Bearer wrong' })).status).toBe(401)
    expect((await purge('{"groups":"posts"}')).status).toBe(400)
    expect((await purge('x'.repeat(1_000_000))).status).toBe(400)
    expect((await fetch(`${edge.origin}/purge`, { method: 'POST' })).status).not.toBe(200)
  })
})
