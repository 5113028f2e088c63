// Processes share copies of pages, and never take a stale one.
import { Client } from 'pg'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { openDatabase, poolOf } from '../../store/connection.ts'
import type { SharedCopies } from '../../../core/caching/shared-copies.ts'
import { RedisCopies } from '../../shared-copies/redis-copies.ts'
import { Writing } from '../../shared-copies/written.ts'
import { quiet, testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost, saveTexts } from '../../testing/edits.ts'
import { startRedis, type TestRedis } from '../../testing/redis.ts'
import { answer } from '../answer.ts'
import { Blog } from '../blog.ts'
import { loadSite } from '../../publish/documents.ts'
import { internalRequest } from '../request.ts'

const SLUG = 'truing-a-wheel-with-two-spoons'
let test: TestBlog
let redis: TestRedis
let outside: Client
const opened: { blog: Blog; end(): Promise<void> }[] = []

/**
 * Opens the blog as another process would.
 * @param longest the timeout of a command to Redis in milliseconds. Shared machines may stall for seconds.
 */
async function open(
  change: (copies: SharedCopies) => SharedCopies = (copies) => copies,
  longest = 30_000,
): Promise<Blog> {
  const database = await openDatabase(test.url)
  const site = await loadSite(database)
  if (!site.ok) throw new Error('The demo is not valid.')
  const { cursorKey } = test.blog
  const sharedCopies = RedisCopies.open(redis.url, new Writing(cursorKey), quiet, longest)
  await expect.poll(() => sharedCopies.isAvailable, { timeout: 30_000 }).toBe(true)
  const blog = new Blog({
    database,
    site: site.value,
    log: quiet,
    cursorKey,
    sharedCopies: change(sharedCopies),
  })
  const unfollow = await blog.follow()
  opened.push({
    blog,
    end: async () => {
      await unfollow()
      await blog.stop()
      await database.destroy()
    },
  })
  return blog
}

let first: Blog
let second: Blog
beforeAll(async () => {
  ;[test, redis] = await Promise.all([testBlog(), startRedis()])
  outside = new Client({ connectionString: test.url })
  await outside.connect()
})
afterAll(async () => {
  for (const one of opened) await one.end()
  await outside.end()
  await test.close()
  await redis.kill()
})
beforeEach(async () => {
  first ??= await open()
  second ??= await open()
  for (const one of [first, second]) {
    await one.shared?.clear()
    one.fragments.clear('for the next test')
  }
})

const read = (blog: Blog, path: string) => answer(blog, internalRequest(path))
const counts = (blog: Blog) => ({ ...blog.shared?.counts })
/** Renders a page in one process, and waits until its copy is shared. */
async function share(blog: Blog, path: string): Promise<string> {
  await blog.shared?.clear()
  blog.fragments.clear('so that it renders')
  const before = blog.shared?.counts.put ?? 0
  const { body } = await read(blog, path)
  await expect.poll(() => blog.shared?.counts.put).toBe(before + 1)
  return body
}

it('a process takes a copy that another one has rendered, and stores it', async () => {
  for (const path of ['/posts', '/archive', '/category/bicycles', `/posts/${SLUG}`]) {
    const before = counts(second)
    const body = await share(first, path)
    const taken = await read(second, path)
    expect([taken.copy, taken.took], path).toEqual(['hit', undefined])
    const withoutToken = (text: string) => text.replace(/name="token" value="[^"]+"/, '')
    expect(withoutToken(taken.body)).toBe(withoutToken(body))
    expect(counts(second)).toEqual({ ...before, taken: (before.taken ?? 0) + 1 })
    await read(second, path)
    expect(counts(second).taken).toBe((before.taken ?? 0) + 1)
  }
})

it('JSON is shared, too, and forms are filled in for each reader', async () => {
  const json = (blog: Blog) => answer(blog, internalRequest('/posts', { accepts: 'json' }))
  const before = first.shared?.counts.put ?? 0
  const { body } = await json(first)
  await expect.poll(() => first.shared?.counts.put).toBe(before + 1)
  const taken = await json(second)
  expect([taken.copy, taken.body]).toEqual(['hit', body])
  await share(first, `/posts/${SLUG}`)
  const token = async (blog: Blog) =>
    /name="token" value="([^"]+)"/.exec((await read(blog, `/posts/${SLUG}`)).body)?.[1]
  expect(new Set([await token(first), await token(second), await token(second)]).size).toBe(3)
})

describe('a copy is refused', () => {
  const refusedAfter = async (path: string, change: () => Promise<unknown>) => {
    const old = await share(first, path)
    second.fragments.clear('so that it asks for the shared one')
    await change()
    const before = counts(second)
    const { body } = await read(second, path)
    expect(counts(second).refused).toBe((before.refused ?? 0) + 1)
    expect(body).not.toBe(old)
    return body
  }

  it('after a change that affects it, but not after one that does not', async () => {
    const body = await refusedAfter('/archive', () =>
      editPost(test.blog, SLUG, (text) => text.replace(/^title: .*$/m, 'title: Not shared any more')),
    )
    expect(body).toContain('Not shared any more')
    second.fragments.clear('so that it asks again')
    await share(first, '/archive')
    await editPost(test.blog, SLUG, (text) => `${text}\nOne more paragraph.\n`)
    const before = counts(second)
    expect((await read(second, '/archive')).copy).toBe('hit')
    expect(counts(second).taken).toBe((before.taken ?? 0) + 1)
  })

  it('after a change by SQL, and after a table was emptied', async () => {
    const body = await refusedAfter('/archive', async () => {
      await outside.query("UPDATE post SET title = 'Not shared by hand' WHERE slug = $1", [SLUG])
      await second.catchUp()
    })
    expect(body).toContain('Not shared by hand')
    await refusedAfter('/posts', async () => {
      await outside.query('TRUNCATE comment CASCADE')
      await second.catchUp()
    })
  })

  it('after a change of the definition', async () => {
    const { text } = (
      await outside.query<{ text: string }>("SELECT text FROM document WHERE path = 'blog.yaml'")
    ).rows[0] ?? { text: '' }
    await share(first, '/archive')
    second.fragments.clear('so that it asks for the shared one')
    await saveTexts(test.blog, { 'blog.yaml': text.replace(/^title: .*$/m, 'title: Another café') })
    expect((await read(second, '/archive')).body).toContain('Another café')
    await saveTexts(test.blog, { 'blog.yaml': text })
  })

  it('once a scheduled post is due', async () => {
    await outside.query(
      "UPDATE post SET published_at = now() + interval '2500 ms', title = 'Shared and due' WHERE slug = 'moth'",
    )
    await Promise.all([first.catchUp(), second.catchUp()])
    // Wait for the readings of the log.
    await new Promise((done) => setTimeout(done, 200))
    const old = await share(first, '/posts')
    expect(old).not.toContain('Shared and due')
    second.fragments.clear('so that it asks for the shared one')
    expect((await read(second, '/posts')).copy).toBe('hit')
    second.fragments.clear('so that it asks again')
    await new Promise((done) => setTimeout(done, 2_500))
    expect((await read(second, '/posts')).body).toContain('Shared and due')
    await outside.query("UPDATE post SET published_at = NULL WHERE slug = 'moth'")
    await Promise.all([first.catchUp(), second.catchUp()])
  })

  it('once a scheduled post is due, even if the clock of Redis stands still', async () => {
    const timeless = await open((copies) => ({
      isAvailable: true,
      take: async (key) => {
        const found = await copies.take(key)
        return found && { ...found, age: 0 }
      },
      put: (key, shared) => copies.put(key, shared, 60_000),
      drop: (key) => copies.drop(key),
      clear: () => copies.clear(),
      close: () => copies.close(),
    }))
    await outside.query(
      "UPDATE post SET published_at = now() + interval '2500 ms', title = 'Due without a clock' WHERE slug = 'moth'",
    )
    await timeless.catchUp()
    await share(timeless, '/posts')
    timeless.fragments.clear('so that it asks')
    expect((await read(timeless, '/posts')).copy).toBe('hit')
    await new Promise((done) => setTimeout(done, 2_600))
    timeless.fragments.clear('so that it asks again')
    const before = counts(timeless)
    expect((await read(timeless, '/posts')).body).toContain('Due without a clock')
    expect(counts(timeless).refused).toBe((before.refused ?? 0) + 1)
    await outside.query("UPDATE post SET published_at = NULL WHERE slug = 'moth'")
    await Promise.all([first, second, timeless].map((one) => one.catchUp()))
  })

  it('if it was rendered with another definition, or before a restart of the database', async () => {
    await share(first, '/archive')
    const [key, copy] =
      [...first.fragments.entries()].find(([, one]) => one.answer?.target === '/archive') ?? []
    const { seen } = first.shared ?? {}
    if (key === undefined || !copy || !seen) throw new Error('It is not stored.')
    const takenAfter = async (put: () => void) => {
      const before = first.shared?.counts.put ?? 0
      put()
      await expect.poll(() => first.shared?.counts.put).toBe(before + 1)
      return (await second.shared?.take(key)) !== undefined
    }
    const due = await first.nextDue(performance.now())
    expect(await takenAfter(() => first.shared?.put(key, copy, seen, due))).toBe(true)
    const parts = new Map([...copy.parts, ['template templates/layout.liquid', 'another']])
    expect(await takenAfter(() => first.shared?.put(key, { ...copy, parts }, seen, due))).toBe(false)
    const restarted = { ...seen, era: '2000-01-01 00:00:00+00' }
    expect(await takenAfter(() => first.shared?.put(key, copy, restarted, due))).toBe(false)
  })

  it('when its lifetime is over, counted from its rendering', async () => {
    await saveTexts(test.blog, { 'cache.yaml': 'pages:\n  archive: { refresh: by-age, lifetime: 2s }\n' })
    const start = performance.now()
    const old = await share(first, '/archive')
    await editPost(test.blog, SLUG, (text) => text.replace(/^title: .*$/m, 'title: After its lifetime'))
    await new Promise((done) => setTimeout(done, 1_200))
    const taken = await read(second, '/archive')
    expect([taken.copy, taken.body]).toEqual(['hit', old])
    while (performance.now() - start < 2_100) await new Promise((done) => setTimeout(done, 20))
    expect((await read(second, '/archive')).body).toContain('After its lifetime')
    await saveTexts(test.blog, { 'cache.yaml': null })
  })

  it('while the process has no lease', async () => {
    await share(first, '/archive')
    const [key = ''] = [...first.fragments.entries()].flatMap(([key, { answer: of }]) =>
      of?.target === '/archive' ? [key] : [],
    )
    expect(await second.shared?.take(key)).toBeDefined()
    await outside.query('BEGIN')
    await outside.query('LOCK TABLE copy_process IN ACCESS EXCLUSIVE MODE')
    await expect.poll(() => second.trustsCopies, { timeout: 5_000 }).toBe(false)
    expect(await second.shared?.take(key)).toBeUndefined()
    await outside.query('COMMIT')
    await expect.poll(() => second.trustsCopies, { timeout: 5_000 }).toBe(true)
    // Redis has a time limit, which a busy machine may exceed once.
    await expect.poll(() => second.shared?.take(key), { timeout: 5_000 }).toBeDefined()
  })

  it('if a change was made while it was rendered', async () => {
    // The queries of the rendering are delayed until the change is applied.
    const stale = internalRequest('/archive')
    let isHeld = true
    const pool = poolOf(first.database)
    const held = first.withCopies(first.fragments, {
      pool: {
        query: (async (...words: Parameters<typeof pool.query>) => {
          const rows = await pool.query(...words)
          while (isHeld) await new Promise((done) => setTimeout(done, 10))
          return rows
        }) as typeof pool.query,
      },
    })
    Object.defineProperty(held, 'shared', { value: first.shared })
    const rendering = answer(held, stale)
    await new Promise((done) => setTimeout(done, 100))
    await editPost(test.blog, SLUG, (text) => text.replace(/^title: .*$/m, 'title: Begun before'))
    isHeld = false
    expect((await rendering).body).not.toContain('Begun before')
    await new Promise((done) => setTimeout(done, 50))
    expect((await read(second, '/archive')).body).toContain('Begun before')
  })
})

describe('a process that starts later', () => {
  it('takes existing copies, unless their sources have changed since', async () => {
    await share(first, '/archive')
    const third = await open()
    expect((await read(third, '/archive')).copy).toBe('hit')
    expect(counts(third).taken).toBe(1)
    await share(first, '/posts')
    await outside.query("UPDATE post SET title = 'Before it started' WHERE slug = $1", [SLUG])
    const fourth = await open()
    expect((await read(fourth, '/posts')).body).toContain('Before it started')
    expect(counts(fourth)).toMatchObject({ taken: 0, refused: 1 })
  })
})

it('pages are rendered while Redis does not respond', async () => {
  await share(first, '/archive')
  const hurried = await open(undefined, 50)
  redis.pause(true)
  try {
    const start = performance.now()
    expect((await read(hurried, '/archive')).copy).toBe('miss')
    expect((await read(hurried, '/posts')).status).toBe(200)
    expect(performance.now() - start).toBeLessThan(20_000)
  } finally {
    redis.pause(false)
  }
  await expect.poll(() => hurried.shared?.isAvailable, { timeout: 30_000 }).toBe(true)
})
