// The built-in edge cache on its own, in front of a small server: what clients can do to it, and to each other.
import { createServer, type Server } from 'node:http'
import { connect, type Socket } from 'node:net'
import { afterEach, beforeEach, expect, it } from 'vitest'
import { EdgeCache } from './cache.ts'
import { startEdge, type EdgeStandIn } from './server.ts'

let blog: Server
let edge: EdgeStandIn
let asked: string[] = []
const sockets: Socket[] = []

beforeEach(async () => {
  asked = []
  blog = createServer((request, response) => {
    asked.push(`${request.method} ${request.url}`)
    request.resume().on('end', () =>
      response
        .writeHead(200, {
          'content-type': 'text/html',
          'cdn-cache-control': 'max-age=60',
          'cache-groups': '"posts:1", "posts+"',
        })
        .end('A page'),
    )
  })
  await new Promise<void>((done) => blog.listen(0, '127.0.0.1', done))
  const { port } = blog.address() as { port: number }
  edge = await startEdge({ blog: () => ({ host: '127.0.0.1', port }), host: '127.0.0.1', port: 0 })
})
afterEach(async () => {
  for (const one of sockets.splice(0)) one.destroy()
  await edge.close()
  blog.closeAllConnections()
  await new Promise((done) => blog.close(done))
})

/** Opens a connection and sends a text. */
function opened(port: number, text: string): Socket {
  const socket = connect(port, '127.0.0.1')
  socket.on('error', () => undefined)
  sockets.push(socket)
  socket.write(text)
  return socket
}
const get = async (path: string) => (await fetch(`${edge.origin}${path}`)).text()
const purge = (body: string) =>
  fetch(edge.purgeUrl, { method: 'POST', body, headers: { authorization: `Bearer ${edge.key}` } })

it('clients that send a form slowly do not delay others', async () => {
  for (let index = 0; index < 100; index++)
    opened(edge.port, 'POST /form HTTP/1.1\r\nHost: b.test\r\nContent-Length: 100\r\n\r\nname=')
  await new Promise((done) => setTimeout(done, 200))
  const start = performance.now()
  expect(await get('/posts')).toBe('A page')
  expect(performance.now() - start).toBeLessThan(2_000)
  // The blog has not heard of these forms.
  expect(asked).toEqual(['GET /posts'])
})

it('clients that announce a body for GET do not delay others', async () => {
  for (let index = 0; index < 100; index++)
    opened(
      edge.port,
      `GET /${index} HTTP/1.1\r\nHost: b.test\r\nExpect: 100-continue\r\nContent-Length: 5\r\n\r\n`,
    )
  await new Promise((done) => setTimeout(done, 200))
  const start = performance.now()
  expect(await get('/posts')).toBe('A page')
  expect(performance.now() - start).toBeLessThan(2_000)
})

it('a request body has a limit', async () => {
  const response = await fetch(`${edge.origin}/form`, { method: 'POST', body: 'x'.repeat(2_000_000) }).catch(
    () => undefined,
  )
  // The connection may be closed before everything is sent.
  expect([413, undefined]).toContain(response?.status)
  expect(asked).toEqual([])
  const small = await fetch(`${edge.origin}/form`, { method: 'POST', body: 'x'.repeat(1_000) })
  expect([small.status, asked]).toEqual([200, ['POST /form']])
})

it('a purge request that is broken off purges nothing, and the server goes on', async () => {
  await get('/posts')
  const { port } = new URL(edge.purgeUrl)
  const socket = opened(
    Number(port),
    `POST /purge HTTP/1.1\r\nHost: x\r\nAuthorization: Bearer ${edge.key}\r\nContent-Length: 100\r\n\r\n{"all"`,
  )
  await new Promise((done) => setTimeout(done, 100))
  socket.destroy()
  await new Promise((done) => setTimeout(done, 100))
  expect(edge.copies(10).total).toBe(1)
  expect((await purge('{"groups":["posts:1"]}')).status).toBe(200)
  expect(edge.copies(10).total).toBe(0)
})

it('concurrent readers of a page cause one request', async () => {
  const pages = await Promise.all(Array.from({ length: 20 }, () => get('/posts')))
  expect(new Set(pages)).toEqual(new Set(['A page']))
  expect(asked).toHaveLength(1)
})

it('an unsafe request drops the stored response of its address', async () => {
  await get('/posts')
  await fetch(`${edge.origin}/posts`, { method: 'POST', body: 'x' })
  expect(edge.copies(10).total).toBe(0)
})

it('502 if the blog is down', async () => {
  blog.closeAllConnections()
  await new Promise((done) => blog.close(done))
  expect((await fetch(`${edge.origin}/posts`)).status).toBe(502)
  await new Promise<void>((done) => blog.listen(0, '127.0.0.1', done))
})

it('stores a limited number of addresses, and lists those that were used last', () => {
  const cache = new EdgeCache(32 * 1024 * 1024)
  const request = (index: number) => ({ method: 'GET', url: `/${index}`, headers: { host: 'b.test' } })
  const headers = { 'cdn-cache-control': 'max-age=60', 'cache-groups': '"posts:1"' }
  for (let index = 0; index < 3_000; index++)
    cache.keep(request(index), { status: 200, headers, body: Buffer.from('A page') }, cache.generation)
  const { copies, total } = cache.copies(2)
  expect([total, copies.map((one) => one.address)]).toEqual([1_000, ['/2999', '/2998']])
  expect(cache.purge(['posts:2'])).toBe(0)
  expect(cache.purge(['posts:1'])).toBe(1_000)
  expect(cache.bytes).toBe(0)
})
