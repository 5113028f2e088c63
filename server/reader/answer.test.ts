// The request path on real PostgreSQL: what readers get, what they never get, and why.
import { createHash } from 'node:crypto'
import { parseList } from 'structured-headers'
import { parse } from 'parse5'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { savePost, postFile } from '../author/posts/posts.ts'
import { saveDocument } from '../author/documents/documents.ts'
import { loadDocuments } from '../publish/documents.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { answer, type BlogRequest } from './answer.ts'
import type { BlogResponse } from './responses.ts'
import { Walk } from './walk/walk.ts'
import { explainEmptyResults } from '../probes/why-empty.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const noForm: BlogRequest['form'] = () => Promise.resolve({ ok: false, status: 415, reason: '' })
const request = (target: string, more: Partial<BlogRequest> = {}): BlogRequest => ({
  id: crypto.randomUUID(),
  method: 'GET',
  target,
  as: 'reader',
  header: () => undefined,
  form: noForm,
  ...more,
})
const get = (target: string, more: Partial<BlogRequest> = {}): Promise<BlogResponse> =>
  answer(test.blog, request(target, more))
const walk = async (target: string, as: 'reader' | 'author' = 'reader') => {
  const one = request(target, { as })
  const record = new Walk(one, new Date(), test.blog.site.version)
  await answer(test.blog, one, record)
  await explainEmptyResults(test.blog, record)
  return record.record
}
const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const count = (text: string, part: string | RegExp) => text.split(part).length - 1
const send = (
  slug: string,
  fields: Record<string, string>,
  headers: Record<string, string> = { origin: 'http://blog.test', host: 'blog.test' },
) =>
  get(`/posts/${slug}/comments`, {
    method: 'POST',
    header: (name) => headers[name],
    form: () => Promise.resolve({ ok: true, fields }),
  })

describe('numbered pages (common practice)', () => {
  it('page 2 at 6 a page shows posts 7 to 12 of 41, in the order of an unpaged listing', async () => {
    const { body } = await get('/posts?page=2')
    expect(body).toContain('Posts 7 to 12 of 41')
    const all = await sql<{ slug: string }>(
      'SELECT slug FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC',
    )
    const shown = [...body.matchAll(/<h2><a href="\/posts\/([a-z0-9-]+)">/g)].map((one) => one[1])
    expect(shown).toEqual(all.slice(6, 12).map((one) => one.slug))
  })
  it('all pages together show every published post once', async () => {
    const slugs: string[] = []
    for (let page = 1; page <= 7; page++)
      slugs.push(
        ...[
          ...(await get(page === 1 ? '/posts' : `/posts?page=${page}`)).body.matchAll(
            /<h2><a href="\/posts\/([a-z0-9-]+)">/g,
          ),
        ].map((one) => one[1] ?? ''),
      )
    expect(slugs.length).toBe(41)
    expect(new Set(slugs).size).toBe(41)
  })
  it('the home page shows the latest 5 and no page links', async () => {
    const { body } = await get('/')
    expect([count(body, 'class="card'), body.includes('class="pager"')]).toEqual([5, false])
  })
  it.each(['abc', '-1', '0', '1.5', '', '1e9', '%00', '%ed%a0%80'])(
    '?page=%s is the first page',
    async (page) => {
      const { status, body } = await get(`/posts?page=${page}`)
      expect([status, body.includes('Posts 1 to 6 of 41')]).toEqual([200, true])
    },
  )
  it.each([
    ['1', '/posts?from=newsletter'],
    ['01', '/posts?from=newsletter'],
    ['007', '/posts?page=7&from=newsletter'],
  ])('?page=%s is another way to write %s, and leads there', async (page, to) => {
    const { status, headers } = await get(`/posts?page=${page}&from=newsletter`)
    expect([status, headers['location']]).toEqual([308, to])
  })
  it.each(['8', '999', '9'.repeat(5_000)])('?page=%s is past the end: not found', async (page) => {
    expect((await get(`/posts?page=${page}`)).status).toBe(404)
  })
  it('page links keep the other parameters, and page 1 has no page parameter', async () => {
    const { body } = await get('/posts?page=2&from=newsletter')
    expect(body).toContain('href="/posts?page=3&amp;from=newsletter"')
    expect(body).toContain('href="/posts?from=newsletter"')
  })
})

describe('only what is published', () => {
  it('neither drafts nor scheduled posts are listed, counted or readable by address; the 404 is the same for all', async () => {
    const hidden = await sql<{ slug: string; title: string }>(
      'SELECT slug, title FROM post WHERE published_at IS NULL OR published_at > now()',
    )
    expect(hidden.length).toBe(7)
    // What the page suggests depends on how the address is written, and on nothing that is hidden.
    const rest = (body: string) => body.replace(/<p>Were you looking for this\?[\s\S]*?<\/ul>/, '')
    const unknown = await get('/posts/no-such-post')
    for (const { slug } of hidden) {
      const { status, body } = await get(`/posts/${slug}`)
      expect([status, rest(body).replace(/\s+/g, ' ')]).toEqual([
        404,
        rest(unknown.body).replace(/\s+/g, ' '),
      ])
      for (const one of hidden) expect(body).not.toContain(one.slug)
    }
    const addresses = [
      '/',
      ...[1, 2, 3, 4, 5, 6, 7].map((page) => `/posts?page=${page}`),
      '/category/electrical',
      '/category/textiles',
    ]
    for (const address of addresses) {
      const { body } = await get(address)
      for (const { slug } of hidden) expect(body).not.toContain(slug)
    }
  })
  it('the author may read a draft, which says “Not published yet”', async () => {
    const record = await walk('/posts/letter-to-a-new-volunteer', 'author')
    expect([record.response.status, record.response.body.includes('Not published yet')]).toEqual([200, true])
    expect(record.queries.runs[0]?.why).toContain('asked without “published”')
  })
  it('a scheduled post comes due by itself, in listings and in kept counts', async () => {
    await sql(
      "UPDATE post SET published_at = now() + interval '3 seconds' WHERE slug = 'an-evening-of-lamps'",
    )
    test.blog.fragments.clear()
    const isDue = async () =>
      (
        await sql<{ due: boolean }>(
          "SELECT published_at <= now() AS due FROM post WHERE slug = 'an-evening-of-lamps'",
        )
      )[0]?.due
    const places = ['/posts', '/', '/category/electrical']
    const shown = async () => {
      const bodies = await Promise.all(places.map(async (path) => (await get(path)).body))
      const { status } = await get('/posts/an-evening-of-lamps')
      return [
        ...bodies.map((body) => body.includes('an-evening-of-lamps')),
        status === 200,
        /Electrical<\/a> <span>(\d+)</.exec(bodies[0] ?? '')?.[1],
      ]
    }
    // Whatever time it is: shown as not due before, when the clock still says so after; and the other way round.
    for (let isOver = false; !isOver; await new Promise((done) => setTimeout(done, 100))) {
      isOver = (await isDue()) === true
      const seen = await shown()
      if (isOver) expect(seen).toEqual([true, true, true, true, '10'])
      else if (!(await isDue())) expect(seen).toEqual([false, false, false, false, '9'])
    }
    await sql("UPDATE post SET published_at = now() + interval '11 days' WHERE slug = 'an-evening-of-lamps'")
    test.blog.fragments.clear()
  })
})

describe('answers', () => {
  it.each([
    ['/posts/', 308],
    ['//posts', 308],
    ['/%E0%A4%A', 400],
    ['/a%00b', 400],
    [`/${'a'.repeat(9_000)}`, 414],
    ['/nowhere', 404],
    ['/category/no-such', 404],
    ['/category/bicycles', 200],
    ['/about/people', 200],
    ['/posts/../../etc/passwd', 308],
    ["/posts/'; DROP TABLE post; --", 308],
    ["/posts/';%20drop%20table%20post;%20--", 404],
    ['/Posts/Moth', 308],
    ['/%70osts', 308],
    ['/posts/moth?x=%27%22%3Cscript%3E', 200],
  ])('%s: %i', async (target, status) => {
    expect((await get(target)).status).toBe(status)
  })
  it('405 names what is allowed; OPTIONS too; HEAD is GET without a body (RFC 9110 §9.3.2, §15.5.6)', async () => {
    expect(await get('/posts', { method: 'DELETE' })).toMatchObject({
      status: 405,
      headers: { allow: 'GET, HEAD, OPTIONS' },
    })
    expect(await get('/posts', { method: 'OPTIONS' })).toMatchObject({
      status: 204,
      headers: { allow: 'GET, HEAD, OPTIONS' },
    })
    const head = await get('/posts', { method: 'HEAD' })
    expect([head.status, head.body]).toEqual([200, ''])
  })
  it('pages are well-formed and say nothing about the inside', async () => {
    for (const target of ['/', '/posts', '/posts/moth', '/about', '/nowhere']) {
      const errors: string[] = []
      parse((await get(target)).body, { onParseError: (error) => errors.push(error.code) })
      expect(errors, target).toEqual([])
    }
  })
  it('plain pages name the hash of their one style (CSP Level 3 §2.3.1)', async () => {
    const { body, headers } = await get('/%E0%A4%A')
    const style = /<style>(.*)<\/style>/.exec(body)?.[1] ?? ''
    expect(headers['content-security-policy']).toContain(
      `style-src 'sha256-${createHash('sha256').update(style).digest('base64')}'`,
    )
  })
  it('Cache-Status can be read by another implementation (RFC 9211)', async () => {
    test.blog.fragments.clear()
    const read = async () => parseList((await get('/posts')).headers['cache-status'] ?? '')[0]?.[1]
    expect((await read())?.get('fwd')?.toString()).toBe('miss')
    const hit = await read()
    expect([hit?.get('hit'), typeof hit?.get('ttl')]).toEqual([true, 'number'])
  })
})

describe('comments', () => {
  it('are added once, shown last with their age, counted, and lead back to themselves', async () => {
    const once = crypto.randomUUID()
    expect((await get('/posts/moth')).body).toContain('3 comments')
    const first = await send('moth', { name: 'Vera', text: 'Thank you <b>all</b>\nfrom row two', once })
    expect(first.status).toBe(303)
    const again = await send('moth', { name: 'Vera', text: 'Thank you', once })
    expect(again.headers['location']).toBe(first.headers['location'])
    const { body } = await get('/posts/moth')
    expect(body).toContain('4 comments')
    expect(body).toContain('Thank you &lt;b&gt;all&lt;/b&gt;<br>from row two')
    expect(body).toMatch(/<b>Vera<\/b> <time [^>]*>just now/)
    expect(first.headers['location']).toBe(
      `/posts/moth#comment-${/id="comment-(\d+)"(?!.*id="comment-)/s.exec(body)?.[1] ?? ''}`,
    )
    expect((await get('/posts?page=3')).body).toContain('4 comments')
  })
  it('the first one replaces “No comments yet”', async () => {
    await sql("DELETE FROM comment WHERE post_id = (SELECT id FROM post WHERE slug = 'moth')")
    expect((await get('/posts/moth')).body).toContain('No comments yet.')
    await send('moth', { name: 'A', text: 'First' })
    const { body } = await get('/posts/moth')
    expect([body.includes('No comments yet.'), body.includes('1 comment<')]).toEqual([false, true])
  })
  it('with faults: the form comes back with what was typed and the error beside its field', async () => {
    const { status, body } = await send('moth', { name: '', text: 'kept <i>text</i>' })
    expect(status).toBe(422)
    expect(body).toContain('kept &lt;i&gt;text&lt;/i&gt;</textarea>')
    expect(body).toContain('id="say-name-error">Please give a name')
  })
  it.each([
    ['from another site', 'moth', { origin: 'https://evil.example', host: 'blog.test' }, 403],
    ['from nowhere', 'moth', { host: 'blog.test' }, 403],
    ['to a draft', 'letter-to-a-new-volunteer', { origin: 'http://blog.test', host: 'blog.test' }, 404],
    ['to nothing', 'no-such-post', { origin: 'http://blog.test', host: 'blog.test' }, 404],
    ['where they are closed', 'the-first-open-day', { origin: 'http://blog.test', host: 'blog.test' }, 403],
  ])('%s: refused, and nothing is stored', async (_, slug, headers, status) => {
    const before = await sql('SELECT count(*) FROM comment')
    expect((await send(slug, { name: 'x', text: 'x' }, headers)).status).toBe(status)
    expect(await sql('SELECT count(*) FROM comment')).toEqual(before)
  })
})

describe('kept parts are never stale', () => {
  const edit = async (slug: string, change: (text: string) => string) => {
    const file = await postFile(test.database, slug)
    if (!file) throw new Error(`no post ${slug}`)
    return await savePost(test.blog, slug, change(file.text), file.version)
  }
  it('a new title is on every card at once; the other cards stay', async () => {
    await get('/')
    await get('/posts')
    expect(
      await edit('truing-a-wheel-with-two-spoons', (text) =>
        text.replace('title: Truing a wheel', 'title: Straightening a wheel'),
      ),
    ).toMatchObject({ outcome: 'saved', version: 2 })
    const { body, fragments } = await get('/posts')
    expect(body).toContain('Straightening a wheel')
    expect(body).not.toContain('Truing a wheel')
    expect(fragments.filter((one) => one.outcome === 'hit').length).toBeGreaterThanOrEqual(5)
  })
  it('a new slug: no card leads to the old address', async () => {
    await get('/posts')
    await edit('the-lamp-that-hummed-in-b-flat', (text) =>
      text.replace('slug: the-lamp-that-hummed-in-b-flat', 'slug: the-humming-lamp'),
    )
    const { body } = await get('/posts')
    expect([body.includes('/posts/the-humming-lamp'), body.includes('the-lamp-that-hummed')]).toEqual([
      true,
      false,
    ])
  })
  it('taking a post back takes it from the listing, the counts and the latest comments', async () => {
    await get('/posts')
    await edit('chair-number-two-hundred', (text) => text.replace(/published: .*\n/, ''))
    const { body } = await get('/posts')
    expect(body).not.toContain('chair-number-two-hundred')
    expect(/Woodwork<\/a> <span>(\d+)</.exec(body)?.[1]).toBe('5')
  })
  it('a comment is in the kept aside and on the kept card at once', async () => {
    await get('/posts')
    await send('the-toaster-inquest', { name: 'Zoë', text: 'Crumpets, obviously' })
    const { body } = await get('/posts')
    expect(body).toContain('<b>Zoë</b>')
    expect(body).toContain('Crumpets, obviously')
  })
  it('what only kept parts read is not asked of the database on a hit', async () => {
    await get('/posts')
    const record = await walk('/posts')
    expect(record.queries.runs.map((run) => [run.data, run.outcome])).toEqual([
      ['posts', 'rows'],
      ['categories', 'not-run'],
      ['recentComments', 'not-run'],
      ['navigation', 'rows'],
    ])
  })
  it('two saves of the same version: the second is told', async () => {
    const file = await postFile(test.database, 'moth')
    if (!file) throw new Error('no post')
    const results = await Promise.all([
      savePost(test.blog, 'moth', file.text, file.version),
      savePost(test.blog, 'moth', file.text, file.version),
    ])
    expect(results.map((one) => one.outcome).sort()).toEqual(['conflict', 'saved'])
  })
  it('a slug that is taken is refused with its place', async () => {
    expect(await edit('moth', (text) => text.replace('slug: moth', 'slug: zip-surgery'))).toMatchObject({
      outcome: 'problems',
      problems: [{ path: '/slug' }],
    })
  })
})

describe('the walk', () => {
  it('tells why a query found nothing', async () => {
    const why = async (target: string) =>
      (await walk(target)).queries.runs.find((run) => run.outcome === 'empty')?.why
    expect(await why('/posts/letter-to-a-new-volunteer')).toBe(
      '“Letter to a new volunteer” has this address but is a draft: the post has no publication date',
    )
    expect(await why('/posts/the-long-tandem-story')).toMatch(/is scheduled: it is published in \d+ days/)
    expect(await why('/posts/no-such-post')).toBe('there is no post whose slug is “no-such-post”')
    expect(await why('/posts?page=999')).toMatch(/^past the end: there are \d+/)
  })
  it('tells when a route matched but its query let the next one try', async () => {
    expect((await walk('/no/such/page')).route).toMatchObject({
      name: null,
      pattern: null,
      note: '/:page matched, but its query found nothing, and no route after it answers',
    })
  })
  it('says why a value that is written in another way is led on, its query kept', async () => {
    const { status, headers } = await get('/archive/2026/09?page=1&x=1')
    expect([status, headers['location']]).toEqual([308, '/archive/2026/9?page=1&x=1'])
    // With all that is not in its one form, in a single step.
    expect((await get('/Archive//2026/09/?x=1')).headers['location']).toBe('/archive/2026/9?x=1')
    expect((await get('/Archive//2026/13/')).headers['location']).toBe('/archive/2026/13')
    const record = await walk('/archive/2026/09')
    expect(record.route.note).toBe('month “09” is written “9”')
    expect(record.queries.runs).toEqual([])
  })
  it('is the reader’s own response, with every stage', async () => {
    await get('/category/textiles?page=2')
    const record = await walk('/category/textiles?page=2')
    const { body } = await get('/category/textiles?page=2')
    expect(record.response.body).toBe(body)
    expect(record.route).toMatchObject({ name: 'category', pattern: '/category/:category', total: 11 })
    expect(record.route.candidates.map((one) => one.reason === null)).toEqual([
      false,
      false,
      false,
      false,
      true,
    ])
    expect(record.parameters).toMatchObject([
      { name: 'category', raw: 'textiles', type: 'slug', value: 'textiles' },
      { name: 'page', from: 'query', value: 2, note: 'of 2' },
    ])
    const posts = record.queries.runs.find((run) => run.data === 'posts')
    expect(posts).toMatchObject({ rows: 1, total: 7 })
    expect(posts?.statements).toHaveLength(2)
    expect(posts?.statements[0]?.values).toEqual(['textiles', 6])
    expect(record.templates.tree.map((one) => one.name)).toEqual(
      expect.arrayContaining(['pages/category', 'layouts/base', 'partials/card', 'partials/pager']),
    )
  })
  it('a listing asks one statement and one for its total, whatever the number of rows', async () => {
    const record = await walk('/posts')
    expect(record.queries.runs.find((run) => run.data === 'posts')?.statements).toHaveLength(2)
  })
})

describe('a query that fails', () => {
  it('readers see a number, the walk sees the statement with its values', async () => {
    await sql('ALTER TABLE category RENAME COLUMN slug TO street_name')
    const one = request('/category/textiles')
    const { status, body } = await answer(test.blog, one)
    expect([status, body.includes(one.id), body.includes('does not exist')]).toEqual([500, true, false])
    const record = await walk('/category/textiles')
    await sql('ALTER TABLE category RENAME COLUMN street_name TO slug')
    expect(record.failure).toMatchObject({
      stage: 'queries',
      place: { document: 'queries/category-by-slug.yaml' },
    })
    const failed = record.queries.runs.find((run) => run.outcome === 'failed')
    expect(failed).toMatchObject({ query: 'category-by-slug', statements: [{ values: ['textiles'] }] })
    expect(failed?.why).toContain('slug')
    expect((await get('/category/textiles')).status).toBe(200)
  })
})

describe('a template that fails', () => {
  it('readers see a number, the walk sees the line; a better save mends it at once', async () => {
    const path = 'templates/pages/home.liquid'
    const text = (await loadDocuments(test.database)).get(path) ?? ''
    expect(
      await saveDocument(test.blog, path, text.replace('</h1>', '{{ blog.title | raw }}</h1>'), 1),
    ).toMatchObject({ outcome: 'saved' })
    const one = request('/')
    const { status, body } = await answer(test.blog, one)
    expect([status, body.includes(one.id), body.includes('liquid')]).toEqual([500, true, false])
    expect((await walk('/')).failure).toMatchObject({
      stage: 'templates',
      place: { document: path, line: 4 },
    })
    expect(await saveDocument(test.blog, path, text, 2)).toMatchObject({ outcome: 'saved' })
    expect((await get('/')).status).toBe(200)
  })
  it('a definition that does not validate never replaces a good one', async () => {
    const before = test.blog.site.version
    expect(await saveDocument(test.blog, 'routes.yaml', '- name: x', 1)).toMatchObject({
      outcome: 'problems',
    })
    expect([test.blog.site.version, (await get('/')).status]).toEqual([before, 200])
  })
})
