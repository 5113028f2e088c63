// Copies of 404 pages and of redirects from former slugs: kept, few, and never in the way of a page.
import type { Hono } from 'hono'
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { renameSlug, saveTexts, textOf } from '../../testing/edits.ts'
import { poolOf, type Queryable } from '../../store/connection.ts'
import { answer } from '../answer.ts'
import { Blog } from '../blog.ts'
import { internalRequest } from '../request.ts'
import { Walk } from '../walk/walk.ts'
import { blogListener } from '../listener.ts'

let test: TestBlog
let app: Hono
let end: () => Promise<void>
beforeAll(async () => {
  test = await testBlog()
  // Rows that are changed by SQL are noticed, too.
  end = await test.blog.follow()
  app = blogListener(test.blog)
})
afterAll(async () => {
  await end()
  await test.close()
})
beforeEach(() => void test.blog.fragments.clear('test'))

const get = async (path: string, headers: Record<string, string> = {}, by = app) => {
  const response = await by.request(`http://b.test${path}`, { headers, redirect: 'manual' })
  const isHit = response.headers.get('cache-status')?.startsWith('esquina-pages; hit') === true
  return { status: response.status, headers: response.headers, body: await response.text(), isHit }
}
const copies = () => [...test.blog.fragments.entries()].filter(([, copy]) => copy.name === 'page not-found')
/** Gives a published post another slug, without a redirect from the former one. */
const setSlug = (from: string, to: string) =>
  test.database.query('UPDATE post SET slug = $2 WHERE slug = $1', [from, to])

it('answers with the copy of the first answer', async () => {
  const [first, second] = [await get('/posts/the-toster-inquest'), await get('/posts/the-toster-inquest')]
  expect([first.status, first.isHit, second.status, second.isHit]).toEqual([404, false, 404, true])
  expect(second.body).toBe(first.body)
  expect(second.body).toContain('the-toaster-inquest')
  expect(second.headers.get('content-security-policy')).toBe(first.headers.get('content-security-policy'))
  expect(second.headers.get('etag')).toBeNull()
  expect(second.headers.get('age')).toBe('0')
})

it('a row that gets the address replaces it at once, and it comes back', async () => {
  for (let round = 0; round < 2; round++) {
    expect((await get('/posts/moth-again')).status).toBe(404)
    expect((await get('/posts/moth-again')).isHit).toBe(true)
    await setSlug('moth', 'moth-again')
    await test.blog.catchUp()
    expect((await get('/posts/moth-again')).status).toBe(200)
    expect((await get('/posts/moth')).status).toBe(404)
    await setSlug('moth-again', 'moth')
    await test.blog.catchUp()
    expect((await get('/posts/moth')).status).toBe(200)
  }
})

it('ends when a scheduled post becomes due', async () => {
  await test.database.query(
    "UPDATE post SET published_at = now() + interval '1.5 seconds' WHERE slug = 'moth'",
  )
  await test.blog.catchUp()
  const statuses: number[] = []
  let hits = 0
  for (const start = performance.now(); performance.now() - start < 3_000 && statuses.at(-1) !== 200;) {
    const { status, isHit } = await get('/posts/moth')
    statuses.push(status)
    hits += Number(isHit)
    await new Promise((done) => setTimeout(done, 50))
  }
  expect(statuses[0]).toBe(404)
  expect(statuses.at(-1)).toBe(200)
  expect(hits).toBeGreaterThan(0)
  const due = await test.database.query<{ due: boolean }[]>(
    "SELECT published_at <= now() AS due FROM post WHERE slug = 'moth'",
  )
  expect(due[0]?.due).toBe(true)
  // What was read at the moment at which a post became due is not kept.
  await new Promise((done) => setTimeout(done, 1_100))
})

it('keeps the redirect from a former slug until the row moves again, or is hidden', async () => {
  expect((await renameSlug(test.blog, 'post', 'moth', 'moth-two')).ok).toBe(true)
  const [first, second] = [await get('/posts/moth?a=1'), await get('/posts/moth?a=1')]
  for (const one of [first, second])
    expect([one.status, one.headers.get('location')]).toEqual([301, '/posts/moth-two?a=1'])
  expect([first.isHit, second.isHit]).toEqual([false, true])
  expect((await renameSlug(test.blog, 'post', 'moth-two', 'moth-three')).ok).toBe(true)
  expect((await get('/posts/moth?a=1')).headers.get('location')).toBe('/posts/moth-three?a=1')
  await test.database.query("UPDATE post SET published_at = NULL WHERE slug = 'moth-three'")
  await test.blog.catchUp()
  expect((await get('/posts/moth?a=1')).status).toBe(404)
  await test.database.query(
    "UPDATE post SET published_at = now() - interval '1 day' WHERE slug = 'moth-three'",
  )
  await test.blog.catchUp()
  expect((await get('/posts/moth?a=1')).status).toBe(301)
})

it('ends a redirect whose former slug is deleted by SQL alone', async () => {
  expect((await get('/posts/moth')).status).toBe(301)
  expect((await get('/posts/moth')).isHit).toBe(true)
  await test.database.query("DELETE FROM former_slug WHERE slug = 'moth'")
  await test.blog.catchUp()
  expect((await get('/posts/moth')).status).toBe(404)
})

it('made-up addresses take the place of each other only', async () => {
  await get('/posts')
  // While a machine stalls, no copies are made.
  await expect
    .poll(
      async () => {
        for (let number = 0; number < 300; number++) await get(`/made-up/${number}`)
        return copies().length
      },
      { timeout: 120_000 },
    )
    .toBe(200)
  expect((await get('/posts')).isHit).toBe(true)
  expect((await get('/made-up/299')).isHit).toBe(true)
  expect((await get('/made-up/1')).isHit).toBe(false)
  await get(`/made-up/${'x'.repeat(600)}`)
  expect(copies()).toHaveLength(200)
})

it('programs, forms and the author get their own answers', async () => {
  await get('/posts/nothing-here')
  const program = await get('/posts/nothing-here', { accept: 'application/json' })
  expect([program.status, program.headers.get('content-type')]).toEqual([404, 'application/problem+json'])
  const sent = await app.request('http://b.test/posts/nothing-here', { method: 'POST' })
  expect(sent.headers.get('cache-status') ?? '').not.toContain('hit')
  const head = await app.request('http://b.test/posts/nothing-here', { method: 'HEAD' })
  expect([head.status, head.headers.get('cache-status')]).toEqual([404, expect.stringContaining('hit')])
})

it('a saved definition replaces it', async () => {
  await get('/posts/nothing-here')
  expect(copies()).toHaveLength(1)
  const path = 'templates/pages/not-found.liquid'
  const text = await textOf(test.blog, path)
  const saved = await saveTexts(test.blog, {
    [path]: text.replace('Perhaps the link', 'Perhaps the saved link'),
  })
  expect(saved.ok).toBe(true)
  expect(copies()).toHaveLength(0)
  expect((await get('/posts/nothing-here')).body).toContain('Perhaps the saved link')
})

it('does not keep the answer if the address gets a row while the 404 page is made', async () => {
  let isLate = false
  const real = poolOf(test.database)
  // Similar addresses are looked up after the row was not found.
  const query = async (...words: Parameters<typeof real.query>) => {
    const text = (words[0] as unknown as { text?: string }).text ?? ''
    if (!isLate && text.includes('similarity')) {
      isLate = true
      await setSlug('the-toaster-inquest', 'late-row')
      await blog.catchUp()
    }
    return await real.query(...words)
  }
  const blog = new Blog({
    database: test.database,
    site: test.blog.site,
    log: test.blog.log,
    pool: { query: query as unknown as Queryable['query'] },
  })
  const stop = await blog.follow()
  const by = blogListener(blog)
  expect((await get('/posts/late-row', {}, by)).status).toBe(404)
  expect(isLate).toBe(true)
  expect((await get('/posts/late-row', {}, by)).status).toBe(200)
  await stop()
})

it('is rendered once for concurrent requests', async () => {
  let nearest = 0
  const pool = poolOf(test.database)
  const counting = {
    query: ((...words: Parameters<Queryable['query']>) => {
      if (JSON.stringify(words[0]).includes('similarity')) nearest++
      return pool.query(...words)
    }) as Queryable['query'],
  }
  const blog = new Blog({ database: test.database, site: test.blog.site, log: test.blog.log, pool: counting })
  const by = blogListener(blog)
  await get('/posts/another-one', {}, by)
  const one = nearest
  expect(one).toBeGreaterThan(0)
  nearest = 0
  const answers = await Promise.all(Array.from({ length: 10 }, () => get('/posts/asked-by-many', {}, by)))
  expect(new Set(answers.map((answer) => `${answer.status} ${answer.body}`)).size).toBe(1)
  expect(nearest).toBe(one)
})

it('a walk shows whether readers get a copy', async () => {
  const walked = async () => {
    const request = internalRequest('/posts/walked-and-missing')
    const walk = new Walk(request, test.blog.clock(), test.blog.site.version)
    await answer(test.blog, request, walk)
    return walk.record.copy
  }
  expect(await walked()).toContain('No copy of this answer is stored now.')
  await get('/posts/walked-and-missing')
  expect(await walked()).toContain('Readers get a copy of this answer')
})
