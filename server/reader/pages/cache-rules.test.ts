// The rules of cache.yaml: on change, by age only, or both, and what answers when a copy is too old.
import CachePolicy from 'http-cache-semantics'
import type { Hono } from 'hono'
import { parseList } from 'structured-headers'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost, saveTexts, textOf } from '../../testing/edits.ts'
import { blogListener } from '../listener.ts'

let test: TestBlog
let app: Hono
/** In milliseconds. */
let now = 0
beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
  Object.defineProperty(test.blog, 'clock', { value: () => new Date(now), configurable: true })
})
afterAll(() => test.close())
beforeEach(() => {
  now = Math.floor(Date.now() / 1_000) * 1_000
  test.blog.fragments.clear('test')
})

const rules = async (text: string | null) => {
  const saved = await saveTexts(test.blog, { 'cache.yaml': text })
  expect(saved.ok ? [] : saved.problems).toEqual([])
}
const get = async (path: string) => {
  const response = await app.request(`http://b.test${path}`)
  const { headers } = response
  const [[, parameters] = []] = [parseList(headers.get('cache-status') ?? '').at(-1)]
  return {
    status: response.status,
    body: await response.text(),
    isHit: parameters?.has('hit') === true,
    ttl: parameters?.get('ttl'),
    detail: parameters?.get('detail'),
    cacheControl: headers.get('cache-control'),
    headers: Object.fromEntries(headers),
  }
}
let titles = 0
const retitle = async () => {
  const title = `Title number ${++titles}`
  const saved = await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
    text.replace(/^title: .*$/m, `title: ${title}`),
  )
  expect(saved.ok).toBe(true)
  return title
}

describe('by age only', () => {
  it('shows the old text for exactly its lifetime, whatever changes', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    const first = await get('/posts')
    const title = await retitle()
    now += 59_999
    const old = await get('/posts')
    expect([old.isHit, old.body]).toEqual([true, first.body])
    now += 1
    const fresh = await get('/posts')
    expect([fresh.isHit, fresh.body.includes(title)]).toEqual([false, true])
  })

  it('a browser and a shared cache show nothing older than that either', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    const { cacheControl } = await get('/posts')
    expect(cacheControl).toBe('public, max-age=60')
    now += 45_000
    const later = await get('/posts')
    expect(later.headers['age']).toBe('45')
    // RFC 9111 §4.2.3: the age that a cache elsewhere computes includes that of the copy.
    const policy = new CachePolicy(
      { url: '/posts', method: 'GET', headers: {} },
      { status: 200, headers: { ...later.headers, date: new Date().toUTCString() } },
      { shared: true },
    )
    expect(Math.round(policy.timeToLive() / 1_000)).toBe(15)
  })

  it('keeps a page whose template reads the time', async () => {
    const path = 'templates/pages/listing.liquid'
    const text = await textOf(test.blog, path)
    await saveTexts(test.blog, { [path]: `${text}{{ now }}` })
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    await get('/posts')
    expect((await get('/posts')).isHit).toBe(true)
    await rules(null)
    await get('/posts')
    expect((await get('/posts')).isHit).toBe(false)
    await saveTexts(test.blog, { [path]: text })
  })

  it('a change of its templates, and of its rule, is seen at once', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    await get('/posts')
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 61s }\n')
    expect((await get('/posts')).isHit).toBe(false)
    expect((await get('/posts')).cacheControl).toBe('public, max-age=61')
  })

  it('a fragment keeps its text inside a page that is refreshed on change', async () => {
    await rules('fragments:\n  aside: { refresh: by-age }\n')
    const first = await get('/')
    const title = await retitle()
    const aside = (html: string) => /<aside[\s\S]*?<\/aside>/.exec(html)?.[0]
    const second = await get('/')
    expect([second.isHit, second.body.includes(title)]).toEqual([false, true])
    expect(aside(second.body)).toBe(aside(first.body))
    expect([...test.blog.fragments.entries()].filter(([, one]) => one.aged.sets.size > 0)).not.toEqual([])
    // The lifetime in its tag is an hour.
    now += 3_600_000
    expect((await get('/')).isHit).toBe(false)
  })
})

describe('both', () => {
  it('shows a change at once, and renders again after the lifetime', async () => {
    await rules('pages:\n  posts: { refresh: both, lifetime: 60s }\n')
    await get('/posts')
    const title = await retitle()
    const changed = await get('/posts')
    expect([changed.isHit, changed.body.includes(title), changed.cacheControl]).toEqual([
      false,
      true,
      'no-cache',
    ])
    now += 59_999
    expect((await get('/posts')).isHit).toBe(true)
    now += 1
    expect((await get('/posts')).isHit).toBe(false)
  })
})

describe('stale-while-revalidate', () => {
  it('an old copy answers until its time is over, while a new one is rendered once', async () => {
    await rules('pages:\n  posts: { refresh: by-age, lifetime: 60s, stale-while-revalidate: 30s }\n')
    expect((await get('/posts')).cacheControl).toBe('public, max-age=60, stale-while-revalidate=30')
    const title = await retitle()
    now += 89_000
    const old = await get('/posts')
    expect([old.isHit, old.ttl, old.detail]).toEqual([true, -29, 'a new copy is being rendered'])
    expect(old.body).not.toContain(title)
    await expect.poll(async () => (await get('/posts')).body.includes(title)).toBe(true)
    expect((await get('/posts')).headers['age']).toBe('0')
    now += 90_000
    // Too old: the reader waits.
    expect((await get('/posts')).isHit).toBe(false)
  })

  it('never brings back what was purged', async () => {
    await rules('pages:\n  posts: { refresh: both, lifetime: 60s, stale-while-revalidate: 1d }\n')
    await get('/posts')
    const title = await retitle()
    now += 70_000
    const page = await get('/posts')
    expect([page.isHit, page.body.includes(title)]).toEqual([false, true])
  })
})

describe('stale-if-error', () => {
  it('an old copy answers while the page fails, until its time is over', async () => {
    await rules('pages:\n  posts: { refresh: both, lifetime: 60s, stale-if-error: 1h }\n')
    const first = await get('/posts')
    const { pool } = test.blog
    const query = pool.query.bind(pool)
    pool.query = () => Promise.reject(new Error('a fault of the database'))
    try {
      now += 60_000
      const old = await get('/posts')
      expect([old.status, old.isHit, old.ttl, old.detail]).toEqual([200, true, 0, 'rendering failed'])
      expect(old.body).toBe(first.body)
      now += 3_600_000
      expect((await get('/posts')).status).toBe(500)
    } finally {
      pool.query = query
    }
    expect((await get('/posts')).status).toBe(200)
  })
})

it('rules for what does not exist are refused, with what was meant', async () => {
  const saved = await saveTexts(test.blog, {
    'cache.yaml':
      'pages:\n  postss: { refresh: on-change }\n  add-comment: { refresh: on-change }\nfragments:\n  asside: { refresh: both }\n',
  })
  expect(
    saved.ok ? [] : (saved.problems ?? []).map(({ code, line, hint }) => [code, line, hint?.slice(0, 20)]),
  ).toEqual([
    ['cache-route-unknown', 2, 'Did you mean “posts”'],
    ['cache-route-without-page', 3, 'Remove the rule.'],
    ['cache-fragment-unknown', 5, 'Did you mean “aside”'],
  ])
})
