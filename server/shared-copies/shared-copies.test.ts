// The contract of shared copies, for the store in memory and for Redis.
import { randomBytes } from 'node:crypto'
import { createClient } from 'redis'
import { afterAll, afterEach, beforeAll, describe, expect, it } from 'vitest'
import { NOTHING } from '../../core/caching/dependence.ts'
import type { SharedCopies, SharedCopy } from '../../core/caching/shared-copies.ts'
import { startRedis, type TestRedis } from '../testing/redis.ts'
import { MemoryCopies } from './memory-copies.ts'
import { RedisCopies } from './redis-copies.ts'
import { Writing } from './written.ts'

let redis: TestRedis
beforeAll(async () => (redis = await startRedis()))
afterAll(() => redis.kill())

const secret = randomBytes(32)
const errors: object[] = []
const log = { error: (details: object) => errors.push(details) }
const shared = (text = '<p>A page</p>'): SharedCopy => ({
  copy: {
    name: 'page posts',
    content: [text, 'after a place'],
    answer: {
      status: 200,
      headers: { 'content-type': 'text/html' },
      tag: 'tag',
      modified: new Date(0).toUTCString(),
      target: '/posts',
      uses: 0,
      places: ['token'],
      formOf: 31,
    },
    dependence: { ...NOTHING, rows: new Map([['posts:31', new Set(['title', 'slug'])]]), timed: true },
    aged: NOTHING,
    parts: new Map([['page posts', 'state']]),
    madeAt: 0,
    agesAt: 60_000,
    expiresAt: 50_000,
    staleUntil: 70_000,
    wrongAt: Infinity,
  },
  snapshot: '10:20:10,14,15',
  era: '2026-11-28 10:00:00+00',
  due: null,
})
/** What a test has opened. It is closed even if the test fails, because a lost connection would be an error of no test. */
const closings: (() => unknown)[] = []
afterEach(async () => {
  redis.pause(false)
  for (const close of closings.splice(0)) await close()
})
/** The timeout of a command in milliseconds, where the test is not about it. Shared machines may stall for seconds. */
const PATIENT = 30_000
/** @param longest undefined: the timeout that the product has */
const opened = async (longest: number | undefined, key = secret): Promise<RedisCopies> => {
  const copies = RedisCopies.open(redis.url, new Writing(key), log, longest)
  closings.push(() => copies.close())
  await expect.poll(() => copies.isAvailable, { timeout: 30_000 }).toBe(true)
  return copies
}

describe.each<[string, () => Promise<SharedCopies>]>([
  ['in this process', () => Promise.resolve(new MemoryCopies(new Writing(secret), 1_000_000))],
  ['in Redis', () => opened(PATIENT)],
])('copies that are shared %s', (_, open) => {
  it('are returned unchanged, with their age', async () => {
    const copies = await open()
    expect(await copies.take('page /posts')).toBeUndefined()
    await copies.put('page /posts', shared(), 60_000)
    await new Promise((done) => setTimeout(done, 60))
    const found = await copies.take('page /posts')
    expect(found?.shared).toEqual(shared())
    expect(found?.age).toBeGreaterThanOrEqual(55)
    expect(found?.age).toBeLessThan(2_000)
    await copies.put('page /posts', shared('another'), 60_000)
    expect((await copies.take('page /posts'))?.shared.copy.content[0]).toBe('another')
    await copies.drop('page /posts')
    expect(await copies.take('page /posts')).toBeUndefined()
  })
  it('expire, and can be deleted', async () => {
    const copies = await open()
    await copies.put('short', shared(), 40)
    await copies.put('long', shared(), 60_000)
    await new Promise((done) => setTimeout(done, 80))
    expect(await copies.take('short')).toBeUndefined()
    expect(await copies.take('long')).toBeDefined()
    await copies.clear()
    expect(await copies.take('long')).toBeUndefined()
  })
})

describe('in Redis', () => {
  it('a copy that the blog has not signed, or signed for another key, is not read', async () => {
    const copies = await opened(PATIENT)
    const client = createClient({ url: redis.url })
    closings.push(() => client.destroy())
    await client.connect()
    await copies.put('page /a', shared(), 60_000)
    const [stored = ''] = await client.keys('*')
    // The key does not reveal the address.
    expect(stored).toMatch(/^esquina:[\w-]{12}:[\w-]{43}$/)
    const text = (await client.get(stored)) ?? ''
    const writing = new Writing(secret)
    for (const forged of [
      text.replace('A page', 'A trap'),
      text.slice(43),
      '',
      'x',
      `${'A'.repeat(43)}${text.slice(43)}`,
    ]) {
      await client.set(stored, forged, { PX: 60_000 })
      expect(await copies.take('page /a')).toBeUndefined()
    }
    await client.set(writing.keyOf('page /b'), text, { PX: 60_000 })
    expect(await copies.take('page /b')).toBeUndefined()
    // Another blog can neither read nor delete it.
    const other = await opened(PATIENT, randomBytes(32))
    await other.clear()
    await client.set(stored, text, { PX: 60_000 })
    expect(await copies.take('page /a')).toBeDefined()
    expect(await other.take('page /a')).toBeUndefined()
    await client.flushAll()
  })

  it('a server that does not respond delays one request per second, and is used again when it responds', async () => {
    const patient = await opened(PATIENT)
    await patient.put('key', shared(), 60_000)
    // With the limit of the product.
    const copies = await opened(undefined)
    redis.pause(true)
    const start = performance.now()
    expect(await copies.take('key')).toBeUndefined()
    const first = performance.now() - start
    for (let times = 0; times < 100; times++) expect(await copies.take('key')).toBeUndefined()
    expect(performance.now() - start - first).toBeLessThan(2_000)
    redis.pause(false)
    // On a busy machine the first command may be late, too.
    await expect.poll(() => copies.take('key'), { timeout: 30_000 }).toBeDefined()
  })

  it('a server that has ended causes no errors, is logged once, and is used again after its restart', async () => {
    errors.length = 0
    const copies = await opened(PATIENT)
    await redis.kill()
    for (let times = 0; times < 5; times++) {
      await copies.put('key', shared(), 60_000)
      expect(await copies.take('key')).toBeUndefined()
      await new Promise((done) => setTimeout(done, 50))
    }
    expect(errors).toHaveLength(1)
    await redis.start()
    await expect.poll(() => copies.isAvailable, { timeout: 30_000 }).toBe(true)
    await copies.put('key', shared(), 60_000)
    expect(await copies.take('key')).toBeDefined()
  })
})
