// Who a reader is behind proxies, and how many pages one reader can request.
import { serve } from '@hono/node-server'
import { connect, type AddressInfo, type Socket } from 'node:net'
import { setImmediate, setTimeout } from 'node:timers/promises'
import { describe, expect, it } from 'vitest'
import { searchPoolOf } from '../../store/connection.ts'
import { testBlog } from '../../testing/database.ts'
import { blogListener } from '../listener.ts'
import { readerAddress, readProxies } from './reader-address.ts'
import { ReaderRates } from './reader-rates.ts'
import { ReaderTurns } from './reader-turns.ts'

const proxiesOf = (text: string) => {
  const read = readProxies(text)
  if ('invalid' in read || !read.proxies) throw new Error(text)
  return read.proxies
}

describe('the address of a reader', () => {
  const proxies = proxiesOf('10.0.0.0/8, 2001:db8::1')
  it.each([
    ['192.0.2.1', undefined, '192.0.2.1'],
    ['192.0.2.1', '198.51.100.1', '192.0.2.1'],
    ['10.1.2.3', '198.51.100.1', '198.51.100.1'],
    ['::ffff:10.1.2.3', '198.51.100.1', '198.51.100.1'],
    ['2001:db8::1', '198.51.100.1', '198.51.100.1'],
    ['10.1.2.3', '6.6.6.6, 198.51.100.1, 10.9.9.9', '198.51.100.1'],
    ['10.1.2.3', 'made up', '10.1.2.3'],
    ['10.1.2.3', '198.51.100.1, <script>', '10.1.2.3'],
    ['10.1.2.3', undefined, '10.1.2.3'],
  ])('connected from %s with %s is %s', (connected, forwarded, expected) => {
    expect(readerAddress(connected, forwarded, proxies)).toBe(expected)
  })
  it.each(['10.0.0.0/33', 'localhost', '10.0.0.0/8/8', '::1/129'])('%s is no proxy', (text) => {
    expect(readProxies(text)).toEqual({ invalid: text })
  })
})

describe('rates', () => {
  it('let a reader make a burst and then so many each second', () => {
    const rates = new ReaderRates({ perSecond: 2, burst: 3 })
    const at = (now: number) => rates.take('192.0.2.1', now)
    expect([at(0), at(0), at(0), at(0)]).toEqual([undefined, undefined, undefined, 1])
    expect([at(1_000), at(1_000), at(1_000)]).toEqual([undefined, undefined, 1])
    expect(rates.take('192.0.2.2', 1_000)).toBeUndefined()
    expect(rates.take('2001:db8::1', 0)).toBeUndefined()
    for (let n = 0; n < 9; n++) expect(rates.take('127.0.0.1', 0)).toBeUndefined()
  })
  it('answer 429 with Retry-After over HTTP, also to a flood of addresses that do not exist', async () => {
    const test = await testBlog()
    const server = serve({
      fetch: blogListener(test.blog, {
        limits: { perSecond: 1, burst: 20 },
        proxies: proxiesOf('127.0.0.1'),
      }).fetch,
      port: 0,
      hostname: '127.0.0.1',
    })
    await new Promise((done) => server.once('listening', done))
    const { port } = server.address() as AddressInfo
    const from = (address: string, path: string) =>
      fetch(`http://127.0.0.1:${port}${path}`, { headers: { 'x-forwarded-for': address } })
    const answers = await Promise.all(
      Array.from({ length: 60 }, (_, n) => from('192.0.2.1', `/nothing-${n}`)),
    )
    const refused = answers.filter((one) => one.status === 429)
    expect(refused.length).toBeGreaterThanOrEqual(35)
    expect(Number(refused[0]?.headers.get('retry-after'))).toBeGreaterThan(0)
    expect(await refused[0]?.text()).toContain('Too many requests')
    // Styles and images are not counted: a page needs several.
    expect((await from('192.0.2.1', '/media/sign.svg')).status).toBe(200)
    // Nobody else is affected.
    expect((await from('192.0.2.2', '/posts')).status).toBe(200)
    await new Promise((done) => server.close(done))
    await test.close()
  })
})

describe('turns', () => {
  /** Requests that are answered when the test says so. */
  function requests() {
    const waiting: ((status: number) => void)[] = []
    const turns = new ReaderTurns()
    const ask = (client: string, isForm = false) =>
      turns.run(
        client,
        isForm,
        () => new Promise((done) => waiting.push((status) => done(new Response(null, { status })))),
      )
    /** Answers all requests that run now. @returns how many */
    const answerAll = async (status: number) => {
      await setImmediate()
      const running = waiting.splice(0)
      for (const one of running) one(status)
      await setImmediate()
      return running.length
    }
    return { turns, ask, answerAll }
  }

  it('six requests of an address run at once, and others do not wait for the rest', async () => {
    const { ask, answerAll } = requests()
    for (let count = 0; count < 10; count++) void ask('192.0.2.1')
    void ask('192.0.2.2')
    expect(await answerAll(200)).toBe(7)
    expect(await answerAll(200)).toBe(4)
  })
  it('after three errors, an address shares four turns with all others that have caused errors', async () => {
    const { ask, answerAll } = requests()
    const addresses = Array.from({ length: 50 }, (_, n) => `198.51.${n}.1`)
    for (const one of addresses) for (let count = 0; count < 3; count++) void ask(one)
    expect(await answerAll(404)).toBe(150)
    for (const one of addresses) void ask(one)
    void ask('192.0.2.2')
    expect(await answerAll(404)).toBe(5)
    expect(await answerAll(404)).toBe(4)
  })
  it('failures of the server are not held against a reader', async () => {
    const { ask, answerAll } = requests()
    for (let count = 0; count < 5; count++) void ask('192.0.2.1')
    await answerAll(503)
    for (let count = 0; count < 6; count++) void ask('192.0.2.1')
    expect(await answerAll(200)).toBe(6)
  })
  it('eight forms run at once, and pages do not wait for the rest', async () => {
    const { ask, answerAll } = requests()
    for (let n = 0; n < 100; n++) void ask(`198.51.${n}.1`, true)
    void ask('192.0.2.2')
    expect(await answerAll(422)).toBe(9)
    expect(await answerAll(422)).toBe(8)
  })
  it('with many requests, missing pages do without their data', async () => {
    const { turns, ask, answerAll } = requests()
    for (let n = 0; n < 25; n++) void ask(`198.51.${n}.1`)
    expect(turns.isBusy).toBe(true)
    await answerAll(200)
    expect(turns.isBusy).toBe(false)
  })
  it('programs on this machine never wait', async () => {
    const { ask, answerAll } = requests()
    for (let count = 0; count < 20; count++) void ask('127.0.0.1')
    expect(await answerAll(404)).toBe(20)
  })
})

it('forms that arrive slowly keep nobody from commenting', async () => {
  const test = await testBlog()
  const server = serve({
    fetch: blogListener(test.blog, { proxies: proxiesOf('127.0.0.1') }).fetch,
    port: 0,
    hostname: '127.0.0.1',
  })
  await new Promise((done) => server.once('listening', done))
  const { port } = server.address() as AddressInfo
  const origin = `http://127.0.0.1:${port}`
  test.blog.origins.push(origin)
  const path = '/posts/moth/comments'
  const type = 'application/x-www-form-urlencoded'
  const slow = Array.from({ length: 60 }, (_, n) =>
    connect(port, '127.0.0.1', function (this: Socket) {
      this.write(
        `POST ${path} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nOrigin: ${origin}\r\nX-Forwarded-For: 198.51.${n}.1\r\nContent-Type: ${type}\r\nContent-Length: 1000\r\n\r\nname=`,
      )
    }),
  )
  await Promise.all(slow.map((one) => new Promise((done) => one.once('connect', done))))
  await setTimeout(200)
  const sent = await fetch(origin + path, {
    method: 'POST',
    headers: { origin, 'content-type': type, 'x-forwarded-for': '192.0.2.1' },
    body: 'name=Vera',
    signal: AbortSignal.timeout(10_000),
  })
  // It has no token; what counts is that it is answered.
  expect(sent.status).toBe(422)
  for (const one of slow) one.destroy()
  await new Promise((done) => server.close(done))
  await test.close()
})

describe('searches', () => {
  it('that cannot run in time answer with a page that says so, and other readers do not wait', async () => {
    const test = await testBlog()
    const app = blogListener(test.blog)
    const pool = searchPoolOf(test.blog.database)
    const taken = [await pool.connect(), await pool.connect()]
    const searching = app.request('http://b.test/search?q=glue')
    const began = performance.now()
    expect((await app.request('http://b.test/posts')).status).toBe(200)
    expect(performance.now() - began).toBeLessThan(2_500)
    const answered = await searching
    expect(answered.status).toBe(200)
    expect(await answered.text()).toContain('would take too long just now')
    for (const one of taken) one.release()
    expect(await (await app.request('http://b.test/search?q=glue')).text()).toContain('class="found"')
    await test.blog.stop()
    await test.close()
  })
})
