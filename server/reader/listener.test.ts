// The blog over HTTP: assets, images, fonts, and bodies that are too large or invalid.
import { createServer, request } from 'node:http'
import type { AddressInfo } from 'node:net'
import { getRequestListener } from '@hono/node-server'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { blogListener } from './listener.ts'
import { FORM_LIMIT } from './request.ts'

let test: TestBlog
let app: ReturnType<typeof blogListener>
beforeAll(async () => {
  test = await testBlog({ origins: ['http://blog.test'] })
  app = blogListener(test.blog)
})
afterAll(() => test.close())
const ask = (path: string, init: RequestInit = {}) => app.request(`http://blog.test${path}`, init)

describe('addresses as they are sent', () => {
  /** Sends a request target over a connection, as no library would write it. */
  async function raw(target: string): Promise<{ status: number; location: string | undefined }> {
    const server = createServer(
      (incoming, outgoing) => void getRequestListener(app.fetch)(incoming, outgoing),
    )
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done))
    const { port } = server.address() as AddressInfo
    try {
      return await new Promise((done, fail) => {
        request({ port, host: '127.0.0.1', path: target }, (response) => {
          response.resume()
          done({ status: response.statusCode ?? 0, location: response.headers.location })
        })
          .on('error', fail)
          .end()
      })
    } finally {
      server.close()
    }
  }

  // RFC 3986 §5.2.4
  it.each([
    ['/posts/./moth', '/posts/moth'],
    ['/posts/x/../moth?a=1', '/posts/moth?a=1'],
    ['/./posts', '/posts'],
  ])('%s redirects to %s', async (target, location) => {
    expect(await raw(target)).toEqual({ status: 308, location })
  })
  it('a canonical one does not', async () => {
    expect((await raw('/posts/moth')).status).toBe(200)
  })
  it('a redirect is revalidated, so that changing it back makes no loop', async () => {
    const answer = await ask('/Posts', { redirect: 'manual' })
    expect([answer.status, answer.headers.get('cache-control')]).toEqual([308, 'no-cache'])
  })
})

describe('files', () => {
  it('assets can be cached forever at their versioned address, and only there', async () => {
    const page = await (await ask('/')).text()
    const address = /href="(\/assets\/blog\.css\?v=[0-9a-f]+)"/.exec(page)?.[1] ?? ''
    const asset = await ask(address)
    expect([asset.status, asset.headers.get('content-type'), asset.headers.get('cache-control')]).toEqual([
      200,
      'text/css; charset=utf-8',
      'public, max-age=31536000, immutable',
    ])
    expect((await ask('/assets/blog.css')).headers.get('cache-control')).toBe('no-cache')
  })
  it('images have their own type, run no scripts, and answer 304 if they are unchanged', async () => {
    const image = await ask('/media/wheels-bicycles-0.svg')
    expect(image.headers.get('content-type')).toBe('image/svg+xml')
    expect(image.headers.get('content-security-policy')).toContain('sandbox')
    const again = await ask('/media/wheels-bicycles-0.svg', {
      headers: { 'if-none-match': image.headers.get('etag') ?? '' },
    })
    expect([again.status, await again.text()]).toEqual([304, ''])
  })
  it('fonts ship with the product', async () => {
    const font = await ask('/fonts/literata.woff2')
    expect([font.status, font.headers.get('access-control-allow-origin')]).toEqual([200, '*'])
    expect(
      Buffer.from(await font.arrayBuffer())
        .subarray(0, 4)
        .toString(),
    ).toBe('wOF2')
  })
  it.each([
    '/assets/..%2f..%2fpackage.json',
    '/fonts/..%2fx',
    '/fonts/constructor',
    '/fonts/__proto__',
    '/media/nothing.svg',
    '/assets/nothing.css',
    '/media/%00',
  ])('%s: 404', async (path) => {
    expect((await ask(path)).status).toBeGreaterThanOrEqual(400)
    expect((await ask(path)).status).toBeLessThan(500)
  })
})

describe('forms', () => {
  const post = (body: BodyInit, headers: Record<string, string> = {}) =>
    ask('/posts/moth/comments', {
      method: 'POST',
      body,
      headers: {
        origin: 'http://blog.test',
        host: 'blog.test',
        'content-type': 'application/x-www-form-urlencoded',
        ...headers,
      },
    })
  it('work by a plain POST and redirect to the new comment', async () => {
    const page = await (await ask('/posts/moth')).text()
    const token = /name="token" value="([^"]+)"/.exec(page)?.[1] ?? ''
    const response = await post(new URLSearchParams({ name: 'Vera', text: 'Hello', token }))
    expect([response.status, response.headers.get('location')]).toEqual([
      303,
      expect.stringMatching(/^\/posts\/moth#comment-\d+$/),
    ])
  })
  it('that are too large: 413, also without a length', async () => {
    expect((await post(`name=a&text=${'x'.repeat(FORM_LIMIT)}`)).status).toBe(413)
    const stream = new ReadableStream({
      pull: (controller) => controller.enqueue(new TextEncoder().encode('x'.repeat(8_192))),
    })
    const init = {
      method: 'POST',
      body: stream,
      duplex: 'half',
      headers: {
        origin: 'http://blog.test',
        host: 'blog.test',
        'content-type': 'application/x-www-form-urlencoded',
      },
    }
    expect(
      (await app.request(new Request('http://blog.test/posts/moth/comments', init as RequestInit))).status,
    ).toBe(413)
  })
  it('of another type: 415; with invalid fields: 422 with the form', async () => {
    expect((await post('{}', { 'content-type': 'application/json' })).status).toBe(415)
    expect((await post('%%%&&&=\u0000=%ff')).status).toBe(422)
  })
})

it('recent requests are recorded for the workbench, newest first, and sent to its listeners', async () => {
  const told: string[] = []
  const end = test.blog.traffic.watch((entry) => told.push(entry.target))
  await ask('/posts?page=3')
  await ask('/nowhere')
  end()
  await ask('/about')
  expect(told).toEqual(['/posts?page=3', '/nowhere'])
  expect(test.blog.traffic.recent().slice(0, 2)).toMatchObject([
    { target: '/about', status: 200, route: 'page' },
    { target: '/nowhere', status: 404, route: null },
  ])
})
