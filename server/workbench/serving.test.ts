// The workbench over HTTP: built pages, signing in and out, live requests, and an unavailable database.
import { copiesOfOne } from '../reader/copies.ts'
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { gunzipSync } from 'node:zlib'
import { Client } from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { databaseUrl } from '../testing/database.ts'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../testing/workbench.ts'
import { workbenchListener } from './listener.ts'

let test: TestWorkbench
let app: TestWorkbench['app']
let folder: string
const SECRET = 'what lies beside the pages is nobody’s'
beforeAll(async () => {
  test = await testWorkbench()
  folder = mkdtempSync(join(tmpdir(), 'esquina-pages-'))
  mkdirSync(join(folder, 'pages/assets'), { recursive: true })
  writeFileSync(join(folder, 'secret.js'), SECRET)
  writeFileSync(join(folder, 'pages/index.html'), '<title>Workbench</title>')
  writeFileSync(join(folder, 'pages/assets/app-1a2b.js'), 'export {}')
  writeFileSync(join(folder, 'pages/assets/text-1a2b.woff2'), Buffer.from([1, 2, 3]))
  app = workbenchListener({
    blog: test.blog,
    checks: test.checks,
    previews: test.previews,
    growth: test.growth,
    indexes: test.indexes,
    mailer: test.mailer,
    copies: copiesOfOne(test.blog),
    edge: { service: { state: null, clear: () => Promise.resolve(false) }, standIn: undefined },
    commentKeys: { test: null, other: null },
    key: KEY,
    hosts: [HOST],
    blogOrigin: 'http://127.0.0.1:4311',
    pages: join(folder, 'pages'),
    shipped: folder,
  })
})
afterAll(async () => {
  await test.close()
  rmSync(folder, { recursive: true, force: true })
})

const ask = (path: string, init: RequestInit = {}) =>
  app.request(`http://${HOST}${path}`, { ...init, headers: { host: HOST, ...init.headers } })
const header = (response: Response, ...names: string[]) => names.map((one) => response.headers.get(one))

describe('its pages', () => {
  it.each([
    '/',
    '/routes',
    '/queries?open=queries/all-posts.yaml',
    '/content/posts?post=a/b',
    '/no/such/place',
  ])('%s is the single page, whose script reads the address', async (path) => {
    const response = await ask(path)
    expect([response.status, await response.text()]).toEqual([200, '<title>Workbench</title>'])
    expect(header(response, 'content-type', 'cache-control')).toEqual([
      'text/html; charset=utf-8',
      'no-store',
    ])
  })
  it('only run their own scripts, and cannot be framed', async () => {
    const [policy = ''] = header(await ask('/'), 'content-security-policy')
    const rules = new Map((policy ?? '').split('; ').map((one) => [one.split(' ')[0], one]))
    expect(rules.get('default-src')).toBe("default-src 'none'")
    expect(rules.get('script-src')).toBe("script-src 'self'")
    expect(rules.get('connect-src')).toBe("connect-src 'self'")
    expect(rules.get('frame-ancestors')).toBe("frame-ancestors 'none'")
  })
  it('have files that can be cached forever, because their names change with their content', async () => {
    const script = await ask('/assets/app-1a2b.js')
    expect(header(script, 'content-type', 'cache-control', 'x-content-type-options')).toEqual([
      'text/javascript; charset=utf-8',
      'public, max-age=31536000, immutable',
      'nosniff',
    ])
    const font = await ask('/assets/text-1a2b.woff2')
    expect([header(font, 'content-type'), Buffer.from(await font.arrayBuffer())]).toEqual([
      ['font/woff2'],
      Buffer.from([1, 2, 3]),
    ])
  })
  it('are compressed if the client accepts it, and vary by Accept-Encoding', async () => {
    const packed = await ask('/assets/app-1a2b.js', { headers: { 'accept-encoding': 'gzip, br' } })
    expect(header(packed, 'content-encoding', 'vary')).toEqual(['gzip', 'accept-encoding'])
    expect(gunzipSync(Buffer.from(await packed.arrayBuffer())).toString()).toBe('export {}')
    expect(header(await ask('/assets/app-1a2b.js'), 'content-encoding')).toEqual([null])
  })
  it('are served in their new version after a build', async () => {
    writeFileSync(join(folder, 'pages/index.html'), '<title>New</title>')
    expect(await (await ask('/')).text()).toBe('<title>New</title>')
    writeFileSync(join(folder, 'pages/index.html'), '<title>Workbench</title>')
  })
  it.each([
    '/assets/../../secret.js',
    '/assets/..%2f..%2fsecret.js',
    '/assets/%2e%2e/%2e%2e/secret.js',
    '/assets/..\\..\\secret.js',
    '/../secret.js',
    '/favicon/../../secret.js',
    '/assets//../../secret.js',
    '/assets/app-1a2b.js%00.js',
    '/assets/none.js',
  ])('%s serves no file outside its folder', async (path) => {
    const response = await ask(path)
    expect([200, 404]).toContain(response.status)
    expect(await response.text()).not.toContain(SECRET)
  })
})

describe('signing in and out', () => {
  const signIn = (body: string) => ask('/api/sign-in', { method: 'POST', body })
  it.each(['', '{', 'null', '[]', '{"key":1}', '{"key":["the-key"]}', '{"kee":"the-key"}'])(
    'not by %s',
    async (body) => {
      const response = await signIn(body)
      expect([response.status, response.headers.get('set-cookie')]).toEqual([401, null])
    },
  )
})

describe('live requests', () => {
  const stream = '/api/traffic/stream'
  it('are refused without a session, and to pages of another site', async () => {
    expect((await ask(stream)).status).toBe(401)
    const headers = { authorization: `Bearer ${KEY}`, origin: 'https://evil.example' }
    expect((await ask(stream, { headers })).status).toBe(403)
  })
  it('arrive one by one until the client disconnects', async () => {
    const ending = new AbortController()
    const headers = { authorization: `Bearer ${KEY}` }
    const response = await app.request(
      new Request(`http://${HOST}${stream}`, { headers: { host: HOST, ...headers }, signal: ending.signal }),
    )
    expect(header(response, 'content-type')).toEqual(['text/event-stream'])
    const reader = (response.body as ReadableStream<Uint8Array>).getReader()
    let text = ''
    const until = async (part: string) => {
      while (!text.includes(part)) {
        const { value, done } = await reader.read()
        if (done) break
        text += Buffer.from(value).toString()
      }
    }
    await until('event: hello')
    await test.read('/posts/moth')
    await test.read('/no such place?q=a\nb')
    // The id of a request may contain any number.
    await until('"status":404')
    const told = [...text.matchAll(/^event: request\ndata: (.*)$/gm)].map(
      (one) => JSON.parse(one[1] ?? '') as { target: string; status: number },
    )
    expect(told.map((one) => [one.target, one.status])).toEqual([
      ['/posts/moth', 200],
      [expect.stringMatching(/^\/no%20such%20place/), 404],
    ])
    await reader.cancel()
    ending.abort()
    // Without clients, nothing is sent and nothing fails.
    expect((await test.read('/posts')).status).toBe(200)
  })
})

describe('while the database is unavailable', () => {
  const administrator = async (...statements: string[]) => {
    const client = new Client({
      connectionString: databaseUrl(process.env['ESQUINA_TEST_ADMINISTRATOR'] ?? '', 'postgres'),
    })
    await client.connect()
    for (const one of statements) await client.query(one)
    await client.end()
  }
  it('the API reports it, the pages still open, and everything recovers', async () => {
    const name = new URL(test.url).pathname.slice(1)
    const posts = () => ask('/api/posts', { headers: { authorization: `Bearer ${KEY}` } })
    expect((await posts()).status).toBe(200)
    await administrator(
      `ALTER DATABASE ${name} ALLOW_CONNECTIONS false`,
      `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '${name}'`,
    )
    const away = await posts()
    expect(away.status).toBe(503)
    expect(await away.json()).toMatchObject({
      type: 'about:blank',
      status: 503,
      code: 'database-unavailable',
    })
    expect((await ask('/')).status).toBe(200)
    await administrator(`ALTER DATABASE ${name} ALLOW_CONNECTIONS true`)
    expect((await posts()).status).toBe(200)
  })
})
