// Behind an ordinary shared cache: Debian's Varnish with its built-in rules, where it is installed.
import { spawn, type ChildProcess } from 'node:child_process'
import { chmodSync, existsSync, mkdtempSync, rmSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { getRequestListener } from '@hono/node-server'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { freePort } from '../../store/cluster.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost, saveTexts } from '../../testing/edits.ts'
import { blogListener } from '../listener.ts'

const VARNISH = '/usr/sbin/varnishd'
const POST = '/posts/truing-a-wheel-with-two-spoons'

describe.skipIf(!existsSync(VARNISH))('behind Varnish', () => {
  const folder = mkdtempSync(join(tmpdir(), 'esquina-varnish-'))
  let test: TestBlog
  let origin: Server
  let varnish: ChildProcess
  let port: number
  /** Requests that reached the blog. */
  let asked: string[] = []

  beforeAll(async () => {
    // Varnish compiles its rules as another user.
    chmodSync(folder, 0o755)
    test = await testBlog()
    const listener = getRequestListener(blogListener(test.blog).fetch)
    origin = createServer((request, response) => {
      asked.push(`${request.method} ${request.url}`)
      void listener(request, response)
    })
    const originPort = await freePort()
    await new Promise<void>((done) => origin.listen(originPort, '127.0.0.1', done))
    port = await freePort()
    varnish = spawn(
      VARNISH,
      // prettier-ignore
      ['-F', '-n', join(folder, 'work'), '-a', `127.0.0.1:${port}`, '-b', `127.0.0.1:${originPort}`, '-s', 'malloc,32m'],
      { stdio: 'ignore' },
    )
    const isUp = () =>
      fetch(`http://127.0.0.1:${port}/posts`).then(
        (one) => one.status === 200,
        () => false,
      )
    for (let look = 0; !(await isUp()); look++) {
      if (varnish.exitCode !== null || look > 200) throw new Error('Varnish has not started.')
      await new Promise((done) => setTimeout(done, 100))
    }
  })
  afterAll(async () => {
    const ended = new Promise((done) => varnish.once('close', done))
    if (varnish.kill()) await ended
    origin.closeAllConnections()
    origin.close()
    await test.close()
    rmSync(folder, { recursive: true, force: true })
  })
  beforeEach(() => {
    asked = []
  })

  const get = async (path: string, headers: Record<string, string> = {}) => {
    const response = await fetch(`http://127.0.0.1:${port}${path}`, { headers })
    return { status: response.status, headers: response.headers, body: await response.text() }
  }
  let titles = 0
  const retitle = async () => {
    const title = `Title behind a cache ${++titles}`
    const saved = await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
      text.replace(/^title: .*$/m, `title: ${title}`),
    )
    expect(saved.ok).toBe(true)
    return title
  }
  const rules = async (text: string | null) =>
    expect((await saveTexts(test.blog, { 'cache.yaml': text })).ok).toBe(true)

  it('a page that is refreshed on change is never old, whichever encoding and address', async () => {
    for (let round = 0; round < 5; round++) {
      const title = await retitle()
      for (const path of ['/posts', POST, '/posts?utm_source=x'])
        for (const encoding of ['gzip', 'br', 'identity'])
          expect((await get(path, { 'accept-encoding': encoding })).body, `${path} ${encoding}`).toContain(
            title,
          )
    }
  })

  it('a page that is refreshed by age is answered by Varnish for its lifetime, and no longer', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 3s }\n')
    const first = await get('/posts')
    asked = []
    const title = await retitle()
    const second = await get('/posts')
    expect([asked, second.body]).toEqual([[], first.body])
    const start = performance.now()
    while (!(await get('/posts')).body.includes(title)) {
      expect(performance.now() - start).toBeLessThan(20_000)
      await new Promise((done) => setTimeout(done, 100))
    }
    // Varnish itself may use an answer for ten seconds more while it asks for another one (its `default_grace`).
    expect(asked.length).toBeGreaterThan(0)
    await rules(null)
  })

  it('data and pages of one address are not mixed up', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    const page = await get('/posts', { accept: 'text/html' })
    const data = await get('/posts', { accept: 'application/json' })
    const [pageAgain, dataAgain] = [
      await get('/posts', { accept: 'text/html' }),
      await get('/posts', { accept: 'application/json' }),
    ]
    expect(page.headers.get('content-type')).toContain('text/html')
    expect(data.headers.get('content-type')).toContain('application/json')
    expect([pageAgain.body, dataAgain.body]).toEqual([page.body, data.body])
    await rules(null)
  })

  it('each reader gets a form and a cookie of their own, and no remembered name of another', async () => {
    const token = (body: string) => /name="token" value="([^"]+)"/.exec(body)?.[1]
    const cookie = `commenter=${Buffer.from(JSON.stringify({ name: 'Vera' })).toString('base64url')}`
    const pages = [await get(POST, { cookie }), await get(POST), await get(POST)]
    expect(pages[0]?.body).toContain('value="Vera"')
    for (const one of pages.slice(1)) expect(one.body).not.toContain('Vera')
    expect(new Set(pages.map((one) => token(one.body))).size).toBe(3)
    expect(new Set(pages.map((one) => one.headers.get('set-cookie'))).size).toBe(3)
  })

  it('404 pages end when a page takes their address', async () => {
    expect((await get('/posts/behind-a-cache')).status).toBe(404)
    await test.database.query("UPDATE post SET slug = 'behind-a-cache' WHERE slug = 'moth'")
    test.blog.fragments.clear('changed by SQL')
    expect((await get('/posts/behind-a-cache')).status).toBe(200)
  })

  it('validators of the blog are compared by Varnish and by the blog alike', async () => {
    const { headers } = await get('/posts', { 'accept-encoding': 'identity' })
    const again = await get('/posts', {
      'accept-encoding': 'identity',
      'if-none-match': headers.get('etag') ?? '',
    })
    expect([again.status, again.body]).toEqual([304, ''])
  })
})
