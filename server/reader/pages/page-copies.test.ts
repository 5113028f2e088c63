// Copies of whole pages: which requests they answer, what differs between readers, and when they are made again.
import type { Hono } from 'hono'
import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest'
import { brotliDecompressSync, gunzipSync } from 'node:zlib'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost, saveTexts, textOf } from '../../testing/edits.ts'
import { answer } from '../answer.ts'
import { internalRequest } from '../request.ts'
import { Walk } from '../walk/walk.ts'
import { blogListener } from '../listener.ts'

let test: TestBlog
let app: Hono
beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
  test.blog.origins.push('http://b.test')
})
afterAll(() => test.close())
beforeEach(() => void test.blog.fragments.clear('test'))

const get = async (path: string, headers: Record<string, string> = {}, method = 'GET') => {
  const response = await app.request(`http://b.test${path}`, { headers, method })
  const bytes = Buffer.from(await response.arrayBuffer())
  return { status: response.status, headers: response.headers, bytes, body: bytes.toString() }
}
const isHit = ({ headers }: { headers: Headers }) =>
  headers.get('cache-status')?.startsWith('esquina-pages; hit') === true
const tokenIn = (body: string) => /name="token" value="([^"]+)"/.exec(body)?.[1] ?? ''
const POST = '/posts/the-toaster-inquest'
const sendComment = (cookie: string, fields: Record<string, string>) =>
  app.request(`http://b.test${POST}/comments`, {
    method: 'POST',
    headers: {
      cookie,
      origin: 'http://b.test',
      host: 'b.test',
      'content-type': 'application/x-www-form-urlencoded',
    },
    body: new URLSearchParams(fields).toString(),
  })

describe('a listing', () => {
  it('is answered from the copy of the first answer, byte for byte, with the same validator', async () => {
    const [first, second] = [await get('/posts'), await get('/posts')]
    expect([isHit(first), isHit(second)]).toEqual([false, true])
    expect(second.body).toBe(first.body)
    expect(second.headers.get('etag')).toMatch(/^"[\w-]{22}"$/)
    expect(second.headers.get('etag')).toBe(first.headers.get('etag'))
    expect(Number(second.headers.get('age'))).toBeGreaterThanOrEqual(0)
  })
  it('with parameters that nothing uses is the same page, and shows none of them', async () => {
    const first = await get('/posts?utm_source=%3Cx%3E&fbclid=1')
    expect(first.body).not.toContain('utm_source')
    const second = await get('/posts')
    expect(isHit(second)).toBe(true)
    expect(second.body).toBe(first.body)
    const page = await get('/posts?utm_source=a&page=2')
    expect(isHit(page)).toBe(false)
    expect(page.body).not.toContain('utm_source')
    expect(isHit(await get('/posts?page=2&x=y'))).toBe(true)
  })
  it('is made again after a change that it shows, and only then', async () => {
    await get('/posts')
    await get('/category/textiles')
    await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
      text.replace(/^title: .*$/m, 'title: Another title'),
    )
    const listing = await get('/posts')
    expect(isHit(listing)).toBe(false)
    expect(listing.body).toContain('Another title')
    expect(isHit(await get('/posts'))).toBe(true)
  })
  it('is rendered once for readers who ask at the same time', async () => {
    let statements = 0
    const { pool } = test.blog
    const query = pool.query.bind(pool)
    pool.query = ((...words: Parameters<typeof query>) => {
      statements++
      return query(...words)
    }) as typeof query
    await get('/posts')
    const alone = statements
    test.blog.fragments.clear('test')
    statements = 0
    const all = await Promise.all(Array.from({ length: 20 }, () => get('/posts')))
    pool.query = query
    expect(new Set(all.map((one) => one.body)).size).toBe(1)
    expect(alone).toBeGreaterThan(0)
    expect(statements).toBe(alone)
  })
})

describe('HTTP', () => {
  it('HEAD has the headers of GET', async () => {
    await get('/posts')
    const [head, full] = [await get('/posts', {}, 'HEAD'), await get('/posts')]
    expect(head.body).toBe('')
    const steady = ({ headers }: { headers: Headers }) =>
      [...headers].filter(([name]) => name !== 'server-timing')
    expect(steady(head)).toEqual(steady(full))
    expect(full.headers.get('server-timing')).toBe('copy;desc=hit')
  })
  it('a browser with the copy gets 304, without a body', async () => {
    const { headers } = await get('/posts')
    const again = await get('/posts', { 'if-none-match': headers.get('etag') ?? '' })
    expect([again.status, again.body]).toEqual([304, ''])
    expect(again.headers.get('etag')).toBe(headers.get('etag'))
    expect(again.headers.get('content-type')).toBeNull()
    expect((await get('/posts', { 'if-match': '"other"' })).status).toBe(412)
  })
  it('each encoding has its own validator, and all of them the same text', async () => {
    const plain = await get('/posts')
    const br = await get('/posts', { 'accept-encoding': 'gzip, deflate, br' })
    const gzip = await get('/posts', { 'accept-encoding': 'gzip' })
    expect([br, gzip].map((one) => one.headers.get('content-encoding'))).toEqual(['br', 'gzip'])
    expect(brotliDecompressSync(br.bytes).toString()).toBe(plain.body)
    expect(gunzipSync(gzip.bytes).toString()).toBe(plain.body)
    expect(new Set([plain, br, gzip].map((one) => one.headers.get('etag'))).size).toBe(3)
    for (const one of [plain, br, gzip]) expect(one.headers.get('vary')).toContain('accept-encoding')
    const again = await get('/posts', {
      'accept-encoding': 'br',
      'if-none-match': br.headers.get('etag') ?? '',
    })
    expect(again.status).toBe(304)
  })
  it('a copy that may have replaced another one in the same second has no date', async () => {
    let now = new Date('2026-11-28T10:00:00.800Z')
    const clock = test.blog.clock
    Object.defineProperty(test.blog, 'clock', { value: () => now, configurable: true })
    await get('/posts')
    expect((await get('/posts')).headers.get('last-modified')).toBeNull()
    now = new Date('2026-11-28T10:00:01.000Z')
    expect((await get('/posts')).headers.get('last-modified')).toBe('Sat, 28 Nov 2026 10:00:00 GMT')
    Object.defineProperty(test.blog, 'clock', { value: clock, configurable: true })
  })
})

describe('the data of a page', () => {
  const json = { accept: 'application/json' }
  it('is a copy of its own, with the same validator until something changes', async () => {
    const [first, second] = [await get('/posts', json), await get('/posts', json)]
    expect([isHit(first), isHit(second)]).toEqual([false, true])
    expect(second.body).toBe(first.body)
    expect(second.headers.get('etag')).toBe(first.headers.get('etag'))
    expect(second.headers.get('content-type')).toBe('application/json')
    expect(second.headers.get('vary')).toBe('accept, accept-encoding')
    expect(second.headers.get('link')).toContain('rel="canonical"')
    // The page is another answer.
    expect(isHit(await get('/posts'))).toBe(false)
    expect((await get('/posts')).headers.get('content-type')).toContain('text/html')
    await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
      text.replace(/^title: .*$/m, 'title: Data with another title'),
    )
    const changed = await get('/posts', json)
    expect([isHit(changed), changed.body.includes('Data with another title')]).toEqual([false, true])
  })
  it('of a post with a form is the same for everybody, also for those who have commented', async () => {
    const value = Buffer.from(JSON.stringify({ name: 'Vera Remembered' })).toString('base64url')
    await get(POST, json)
    const page = await get(POST, { ...json, cookie: `commenter=${value}` })
    expect([isHit(page), page.body.includes('Vera Remembered')]).toEqual([true, false])
    expect(page.headers.get('cache-control')).toBe('no-cache')
  })
})

describe('a page with a form', () => {
  it('is one copy, and each reader gets a token and a cookie of their own', async () => {
    const [first, second] = [await get(POST), await get(POST)]
    expect([isHit(first), isHit(second)]).toEqual([false, true])
    const [one, other] = [tokenIn(first.body), tokenIn(second.body)]
    expect(one).not.toBe(other)
    expect(second.body.replace(other, '')).toBe(first.body.replace(one, ''))
    expect(second.headers.get('set-cookie')).toMatch(/^writer=/)
    expect(second.headers.get('cache-control')).toBe('private, no-cache')
    const zipped = await get(POST, { 'accept-encoding': 'gzip, br' })
    expect(zipped.headers.get('content-encoding')).toBe('gzip')
    const text = gunzipSync(zipped.bytes).toString()
    expect(text.replace(tokenIn(text), '')).toBe(first.body.replace(one, ''))
  })
  it('the token of a copy is accepted, and the writer sees the waiting comment, which others do not', async () => {
    await get(POST)
    const page = await get(POST)
    expect(isHit(page)).toBe(true)
    const cookie = (page.headers.get('set-cookie') ?? '').replace(/;.*/, '')
    const sent = await sendComment(cookie, { token: tokenIn(page.body), name: 'Vera', text: 'From a copy' })
    expect(sent.status).toBe(303)
    const own = (sent.headers.get('set-cookie') ?? '').replace(/;.*/, '')
    expect((await get(POST, { cookie: own })).body).toContain('From a copy')
    const other = await get(POST)
    expect(isHit(other)).toBe(true)
    expect(other.body).not.toContain('From a copy')
  })
  it('closes when its time comes, also in a copy', async () => {
    // The demo closes comments 90 days after publication.
    const [post] = await test.database.query<{ at: Date }[]>(
      "SELECT published_at AS at FROM post WHERE slug = 'the-toaster-inquest'",
    )
    const closing = (post?.at.getTime() ?? 0) + 90 * 86_400_000
    let now = closing - 1_500
    const { clock } = test.blog
    Object.defineProperty(test.blog, 'clock', { value: () => new Date(now), configurable: true })
    await get(POST)
    now += 1_000
    const open = await get(POST)
    now += 500
    const closed = await get(POST)
    Object.defineProperty(test.blog, 'clock', { value: clock, configurable: true })
    expect([isHit(open), tokenIn(open.body) !== '']).toEqual([true, true])
    expect([isHit(closed), tokenIn(closed.body)]).toEqual([false, ''])
  })
  it('with a reply is rendered each time', async () => {
    await get(POST)
    expect(isHit(await get(`${POST}?reply=1`))).toBe(false)
  })
})

describe('a page with a form, for a reader who is remembered', () => {
  const rememberedAs = (values: Record<string, string>) =>
    `commenter=${Buffer.from(JSON.stringify(values)).toString('base64url')}`
  const without = (body: string) => body.replaceAll(tokenIn(body), '')
  const NAME = 'Vera <"R\'s & Söhne">'

  it('is a copy that is filled in, as the page would be that is rendered for them', async () => {
    const names = { name: NAME, email: 'vera@cobble.example', site: '' }
    const cookie = rememberedAs(names)
    const other = rememberedAs({ name: 'Ulla', email: 'u@cobble.example', site: '' })
    const pages = [
      await get(POST, { cookie }),
      await get(POST, { cookie }),
      await get(POST, { cookie: other }),
    ]
    expect(pages.map(isHit)).toEqual([false, true, true])
    for (const one of pages) expect(one.headers.get('cache-control')).toBe('private, no-cache')
    const alone = await answer(
      test.blog.withoutFragments(),
      internalRequest(POST, { cookies: { commenter: cookie.replace('commenter=', '') } }),
    )
    expect(alone.body).toContain('value="Vera &lt;')
    for (const one of pages.slice(0, 2)) expect(without(one.body)).toBe(without(alone.body))
    expect(pages[2]?.body).toContain('value="Ulla"')
    expect(pages[2]?.body).not.toContain('Vera')
    const zipped = await get(POST, { cookie, 'accept-encoding': 'gzip' })
    expect(without(gunzipSync(zipped.bytes).toString())).toBe(without(alone.body))
    // Nobody else gets any of it.
    const plain = await get(POST)
    expect(plain.body).not.toMatch(/Vera|Ulla|cobble\.example"/)
    expect(plain.body).not.toContain('Zz&')
  })

  it.each([
    ['another case', 'value="{{ form.values.name | upcase }}"', 'value="VERA &lt;'],
    ['JSON', "value='{{ form.values.name | json }}'", '&quot;Vera &lt;\\&quot;'],
    ['an address', 'value="{{ form.values.name | url_encode }}"', 'value="Vera%20%3C'],
    [
      'a replaced part',
      `value="{{ form.values.name | replace: 'Vera', 'Mrs Vera' }}"`,
      'value="Mrs Vera &lt;',
    ],
    ['a removed part', `value="{{ form.values.name | remove: 'Ve' }}"`, 'value="ra &lt;'],
    ['a part', 'value="{{ form.values.name | slice: 0, 4 }}"', 'value="Vera"'],
    [
      'a greeting',
      '{% if form.values.name == "x" %}x{% endif %} value="{{ form.values.name }}"',
      'value="Vera &lt;',
    ],
  ])(
    'is rendered each time if a template makes something else of the name: %s',
    async (_, changed, expected) => {
      const path = 'templates/partials/comment-form.liquid'
      const text = await textOf(test.blog, path)
      const saved = await saveTexts(test.blog, {
        [path]: text.replace('value="{{ form.values.name }}"', changed),
      })
      expect(saved.ok).toBe(true)
      const cookie = rememberedAs({ name: NAME })
      const pages = [await get(POST, { cookie }), await get(POST, { cookie })]
      expect(pages.map(isHit)).toEqual([false, false])
      for (const one of pages) expect(one.body.replaceAll('+', '%20')).toContain(expected)
      // Those of whom nothing is remembered still have their copy.
      await get(POST)
      expect(isHit(await get(POST))).toBe(true)
      await saveTexts(test.blog, { [path]: text })
    },
  )

  it('is a copy again once a comment of theirs no longer waits, and was never in a copy while it did', async () => {
    const page = await get(POST)
    const cookie = (page.headers.get('set-cookie') ?? '').replace(/;.*/, '')
    const sent = await sendComment(cookie, {
      token: tokenIn(page.body),
      name: 'Vera',
      text: 'Waiting for a while',
      remember: 'on',
    })
    expect(sent.status).toBe(303)
    const own = sent.headers
      .getSetCookie()
      .map((one) => one.replace(/;.*/, ''))
      .join('; ')
    expect(own).toContain('commenter=')
    for (let round = 0; round < 3; round++) {
      const mine = await get(POST, { cookie: own })
      expect([isHit(mine), mine.body.includes('Waiting for a while')]).toEqual([false, true])
      expect((await get(POST)).body).not.toContain('Waiting for a while')
    }
    for (const [, copy] of test.blog.fragments.entries())
      expect(copy.content.join('')).not.toContain('Waiting for a while')
    // Approved, and too late to change it.
    await test.database.query(
      "UPDATE comment SET state = 'shown', created_at = created_at - interval '1 day' WHERE text = 'Waiting for a while'",
    )
    test.blog.fragments.clear('changed by SQL')
    await get(POST)
    const pages = [await get(POST, { cookie: own }), await get(POST, { cookie: own })]
    expect(pages.map(isHit)).toEqual([false, true])
    for (const one of pages) {
      expect(one.body).toContain('Waiting for a while')
      expect(one.body).toContain('value="Vera"')
      expect(one.body).not.toContain('waiting for approval')
    }
    // It waits again after the copy was chosen, and before the page is rendered.
    test.blog.fragments.clear('test')
    await get(POST)
    let isAsked = 0
    const { query } = test.blog.pool
    const late = vi.spyOn(test.blog.pool, 'query').mockImplementation((async (
      ...words: [{ name?: string }]
    ) => {
      if (words[0].name === 'comment form' && ++isAsked === 2)
        await test.database.query("UPDATE comment SET state = 'waiting' WHERE text = 'Waiting for a while'")
      return await (query as unknown as (...words: unknown[]) => Promise<unknown>)(...words)
    }) as unknown as typeof query)
    await get(POST, { cookie: own })
    late.mockRestore()
    expect(isAsked).toBe(2)
    for (const [, copy] of test.blog.fragments.entries())
      expect(copy.content.join('')).not.toContain('waiting for approval')
  })
})

describe('a page that cannot be kept', () => {
  /** Reads a post twice with another text in its template. @returns both, and what a walk says */
  async function changed(from: string, to: string, path = 'templates/partials/comment-form.liquid') {
    const text = await textOf(test.blog, path)
    expect(text).toContain(from)
    const saved = await saveTexts(test.blog, { [path]: text.replace(from, to) })
    expect(saved.ok ? [] : saved.problems).toEqual([])
    const pages = [await get(POST), await get(POST)]
    const request = internalRequest(POST)
    const walk = new Walk(request, new Date(), test.blog.site.version)
    await answer(test.blog, request, walk)
    await saveTexts(test.blog, { [path]: text })
    return { pages, notes: walk.record.copy ?? '' }
  }

  it.each([
    ['changes the token', '{{ form.token }}', '{{ form.token | upcase }}', /^[0-9A-F]{8}-/],
    [
      'tests the token',
      '{{ form.token }}',
      '{% if form.token %}{{ form.token }}{% endif %}',
      /^[0-9a-f]{8}-/,
    ],
    [
      'copies the token',
      '{{ form.token }}',
      '{% assign one = form.token %}{{ one }}{{ one }}',
      /^[0-9a-f]{8}-/,
    ],
  ])('because a template %s has a right token each time', async (_, from, to, expected) => {
    const { pages, notes } = await changed(from, to)
    expect(pages.map(isHit)).toEqual([false, false])
    for (const one of pages) expect(tokenIn(one.body)).toMatch(expected)
    expect(notes).toContain('a template changes the token of the form')
  })
  it('because a template reads the time is rendered each time', async () => {
    const { pages, notes } = await changed('</main>', '{{ now }}</main>', 'templates/pages/post.liquid')
    expect(pages.map(isHit)).toEqual([false, false])
    expect(notes).toContain('a template reads the time')
  })
  it('a date of today is kept until tomorrow', async () => {
    const { pages, notes } = await changed(
      '</main>',
      "{{ now | date: '%F' }}</main>",
      'templates/pages/post.liquid',
    )
    expect(pages.map(isHit)).toEqual([false, true])
    const ttl = Number(/ttl=(\d+)/.exec(pages[1]?.headers.get('cache-status') ?? '')?.[1])
    expect(ttl).toBeLessThanOrEqual(86_400)
    expect(notes).toContain('Readers get a copy of the page')
  })
})
