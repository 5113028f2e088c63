// The request path on real PostgreSQL: what readers get, what they never get, and why.
import { createHash } from 'node:crypto'
import { parseList } from 'structured-headers'
import { parse } from 'parse5'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { savePostFile } from '../author/posts/save-post.ts'
import { postFile } from '../author/posts/stored-post.ts'
import { write } from '../author/writing.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { editPost, saveTexts, textOf } from '../testing/edits.ts'
import { sendComment } from '../testing/comments.ts'
import { success } from '../../core/shapes/outcome.ts'
import { CommentEntity } from '../store/entities/content.ts'
import { answer } from './answer.ts'
import { blogListener } from './listener.ts'
import { internalRequest, type InternalOptions } from './request.ts'
import type { BlogResponse } from './responses.ts'
import { Walk } from './walk/walk.ts'
import { explainEmptyResults } from '../probes/why-empty.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const get = (target: string, options: InternalOptions = {}): Promise<BlogResponse> =>
  answer(test.blog, internalRequest(target, options))
const walk = async (target: string, as: 'reader' | 'author' = 'reader') => {
  const one = internalRequest(target, { as })
  const record = new Walk(one, new Date(), test.blog.site.version)
  await answer(test.blog, one, record)
  await explainEmptyResults(test.blog, record)
  return record.record
}
const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const count = (text: string, part: string | RegExp) => text.split(part).length - 1

describe('numbered pages (common practice)', () => {
  it('page 2 with 6 rows per page shows posts 7 to 12 of 41, in the order of an unpaged listing', async () => {
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
  ])('?page=%s redirects to the canonical form %s', async (page, to) => {
    const { status, headers } = await get(`/posts?page=${page}&from=newsletter`)
    expect([status, headers['location']]).toEqual([308, to])
  })
  it.each(['8', '999', '9'.repeat(5_000)])('?page=%s is beyond the last page: 404', async (page) => {
    expect((await get(`/posts?page=${page}`)).status).toBe(404)
  })
  it('page links keep the parameters that the page uses, and no others; page 1 has no page parameter', async () => {
    const { body } = await get('/posts?page=2&from=newsletter')
    expect(body).toContain('href="/posts?page=3"')
    expect(body).toContain('href="/posts"')
    expect(body).not.toContain('newsletter')
    const found = await get('/search?q=glue&from=newsletter')
    expect(found.body).toContain('href="/search?q=glue&amp;page=2"')
  })
})

describe('suggestions of the 404 page', () => {
  const suggested = async (path: string) =>
    [...(await get(path)).body.matchAll(/<li><a href="([^"]+)"/g)].map(([, href]) => href)
  it('are similar addresses of pages', async () => {
    expect((await suggested('/posts/zip-surgary'))[0]).toBe('/posts/zip-surgery')
    expect(await suggested('/archiv')).toContain('/archive')
  })
  it('are none that are for programs', async () => {
    for (const path of ['/feed.aton', '/sitemap.xm', '/robot.txt'])
      expect(await suggested(path)).not.toContainEqual(expect.stringMatching(/\.(atom|xml|txt)$/))
  })
})

describe('published posts', () => {
  it('are all that is listed, counted or readable by address, and every 404 is the same', async () => {
    const hidden = await sql<{ slug: string; title: string }>(
      'SELECT slug, title FROM post WHERE published_at IS NULL OR published_at > now()',
    )
    expect(hidden.length).toBe(7)
    // The suggestions depend on the address, but not on hidden posts.
    const rest = (body: string) => body.replace(/<p>Did you mean one of these\?[\s\S]*?<\/ul>/, '')
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
  it('include drafts for the author, which are marked', async () => {
    const record = await walk('/posts/letter-to-a-new-volunteer', 'author')
    expect([record.response.status, record.response.body.includes('Not published yet')]).toEqual([200, true])
    expect(record.queries.runs[0]?.why).toContain('“published”')
  })
  it('include a scheduled post from its due time on, in listings and in stored counts', async () => {
    await sql(
      "UPDATE post SET published_at = now() + interval '3 seconds' WHERE slug = 'an-evening-of-lamps'",
    )
    test.blog.fragments.clear('test')
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
    // Not shown if it is not due afterwards either, and shown if it was due before.
    for (let isOver = false; !isOver; await new Promise((done) => setTimeout(done, 100))) {
      isOver = (await isDue()) === true
      const seen = await shown()
      if (isOver) expect(seen).toEqual([true, true, true, true, '10'])
      else if (!(await isDue())) expect(seen).toEqual([false, false, false, false, '9'])
    }
    await sql("UPDATE post SET published_at = now() + interval '11 days' WHERE slug = 'an-evening-of-lamps'")
    test.blog.fragments.clear('test')
  })
})

describe('responses', () => {
  it.each([
    ['/posts/?page=2&from=a%20b', '/posts?page=2&from=a%20b'],
    ['/Posts?page=2', '/posts?page=2'],
    ['//posts?', '/posts'],
    ['/posts/?q=é', '/posts?q=%C3%A9'],
  ])('%s redirects to %s: the query string is kept', async (target, to) => {
    const { status, headers } = await get(target)
    expect([status, headers['location']]).toEqual([308, to])
  })
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
  it('405 and OPTIONS list the allowed methods; HEAD is GET without a body (RFC 9110 §9.3.2, §15.5.6)', async () => {
    expect(await get('/posts', { method: 'DELETE' })).toMatchObject({
      status: 405,
      headers: { allow: 'GET, HEAD, OPTIONS' },
    })
    expect(await get('/posts', { method: 'OPTIONS' })).toMatchObject({
      status: 204,
      headers: { allow: 'GET, HEAD, OPTIONS' },
    })
    const head = await blogListener(test.blog).request('http://b.test/posts', { method: 'HEAD' })
    expect([head.status, await head.text()]).toEqual([200, ''])
  })
  it('pages are well-formed', async () => {
    for (const target of ['/', '/posts', '/posts/moth', '/about', '/nowhere']) {
      const errors: string[] = []
      parse((await get(target)).body, { onParseError: (error) => errors.push(error.code) })
      expect(errors, target).toEqual([])
    }
  })
  it('plain pages allow their style by its hash (CSP Level 3 §2.3.1)', async () => {
    const { body, headers } = await get('/%E0%A4%A')
    const style = /<style>(.*)<\/style>/.exec(body)?.[1] ?? ''
    expect(headers['content-security-policy']).toContain(
      `style-src 'sha256-${createHash('sha256').update(style).digest('base64')}'`,
    )
  })
  it('Cache-Status is parsed by another implementation (RFC 9211)', async () => {
    test.blog.fragments.clear('test')
    const read = async () =>
      parseList((await get('/posts')).headers['cache-status'] ?? '').map(([name, parameters]) => [
        String(name),
        parameters,
      ]) as [string, Map<string, unknown>][]
    const missed = await read()
    expect(missed.map(([name, one]) => [name, String(one.get('fwd'))])).toEqual([
      ['esquina-fragments', 'miss'],
      ['esquina-pages', 'miss'],
    ])
    const [[name, hit] = []] = await read()
    expect(name).toBe('esquina-pages')
    expect([hit?.get('hit'), typeof hit?.get('ttl')]).toEqual([true, 'number'])
  })
})

describe('stored fragments are never stale', () => {
  const edit = (slug: string, change: (text: string) => string) => editPost(test.blog, slug, change)
  it('a new title is on every card at once, and the other cards stay stored', async () => {
    await get('/')
    await get('/posts')
    expect(
      await edit('truing-a-wheel-with-two-spoons', (text) =>
        text.replace('title: Truing a wheel', 'title: Straightening a wheel'),
      ),
    ).toMatchObject({ ok: true, value: { version: 2 } })
    const { body, fragments } = await get('/posts')
    expect(body).toContain('Straightening a wheel')
    expect(body).not.toContain('Truing a wheel')
    expect(fragments.filter((one) => one.outcome === 'hit').length).toBeGreaterThanOrEqual(5)
  })
  it('no card links to a former slug', async () => {
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
  it('an unpublished post disappears from the listing, the counts and the latest comments', async () => {
    await get('/posts')
    await edit('chair-number-two-hundred', (text) => text.replace(/published: .*\n/, ''))
    const { body } = await get('/posts')
    expect(body).not.toContain('chair-number-two-hundred')
    expect(/Woodwork<\/a> <span>(\d+)</.exec(body)?.[1]).toBe('5')
  })
  it('a comment is in the stored aside and on the stored card at once', async () => {
    await get('/posts')
    await sendComment(test.blog, 'the-toaster-inquest', { name: 'Zoë', text: 'Crumpets, obviously' })
    expect((await get('/posts')).body).not.toContain('Zoë')
    await write(test.blog, ({ manager }) =>
      manager.update(CommentEntity, { name: 'Zoë' }, { state: 'shown' }).then(() => success(null)),
    )
    const { body } = await get('/posts')
    expect(body).toContain('<b><bdi>Zoë</bdi></b>')
    expect(body).toContain('Crumpets, obviously')
  })
  it('queries that only stored fragments read do not run', async () => {
    await get('/posts')
    const record = await walk('/posts')
    expect(record.queries.runs.map((run) => [run.data, run.outcome])).toEqual([
      ['posts', 'rows'],
      ['categories', 'not-run'],
      ['recentComments', 'not-run'],
      ['navigation', 'rows'],
    ])
  })
  it('the second of two saves of the same version is a conflict', async () => {
    const file = await postFile(test.database, 'moth')
    if (!file) throw new Error('no post')
    const results = await Promise.all([
      write(test.blog, (writing) =>
        savePostFile(writing, { slug: 'moth', version: file.version }, file.text),
      ),
      write(test.blog, (writing) =>
        savePostFile(writing, { slug: 'moth', version: file.version }, file.text),
      ),
    ])
    expect(results.filter((one) => one.ok)).toHaveLength(1)
    expect(results.find((one) => !one.ok)).toMatchObject({ why: 'conflict' })
  })
  it('a taken slug is refused with its place', async () => {
    expect(await edit('moth', (text) => text.replace('slug: moth', 'slug: zip-surgery'))).toMatchObject({
      ok: false,
      problems: [{ code: 'slug-taken', path: '/slug' }],
    })
  })
})

describe('the walk', () => {
  it('explains why a query returned no rows', async () => {
    const why = async (target: string) =>
      (await walk(target)).queries.runs.find((run) => run.outcome === 'empty')?.why
    expect(await why('/posts/letter-to-a-new-volunteer')).toMatch(/“Letter to a new volunteer”.*draft/)
    expect(await why('/posts/the-long-tandem-story')).toMatch(/scheduled.*\d+ days/)
    expect(await why('/posts/no-such-post')).toContain('“no-such-post”')
    expect(await why('/posts?page=999')).toMatch(/beyond the last.*\b\d+ rows/)
  })
  it('notes a route that matched and passed the request on', async () => {
    expect((await walk('/no/such/page')).route).toMatchObject({
      name: null,
      pattern: null,
      note: expect.stringContaining('/:page') as string,
    })
  })
  it('explains a redirect to the canonical form, which keeps the query string', async () => {
    const { status, headers } = await get('/archive/2026/09?page=1&x=1')
    expect([status, headers['location']]).toEqual([308, '/archive/2026/9?page=1&x=1'])
    // All parts become canonical in a single redirect.
    expect((await get('/Archive//2026/09/?x=1')).headers['location']).toBe('/archive/2026/9?x=1')
    expect((await get('/Archive//2026/13/')).headers['location']).toBe('/archive/2026/13')
    const record = await walk('/archive/2026/09')
    expect(record.route.note).toMatch(/month.*“9”.*“09”/)
    expect(record.queries.runs).toEqual([])
  })
  it('returns the reader’s response with every stage', async () => {
    await get('/category/textiles?page=2')
    const record = await walk('/category/textiles?page=2')
    const { body } = await get('/category/textiles?page=2')
    expect(record.response.body).toBe(body)
    expect(record.route).toMatchObject({ name: 'category', pattern: '/category/:category', total: 16 })
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
  it('shows one statement of a listing and one for its total, for any number of rows', async () => {
    const record = await walk('/posts')
    expect(record.queries.runs.find((run) => run.data === 'posts')?.statements).toHaveLength(2)
  })
})

describe('a failing query', () => {
  it('shows readers only a number, and the walk the statement with its values', async () => {
    await sql('ALTER TABLE category RENAME COLUMN slug TO street_name')
    const one = internalRequest('/category/textiles')
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

describe('a failing template', () => {
  it('shows readers only a number, and the walk the line, until it is saved without the fault', async () => {
    const path = 'templates/pages/home.liquid'
    const text = await textOf(test.blog, path)
    const faulty = text.replace('</h1>', '{{ blog.title | raw }}</h1>')
    expect(await saveTexts(test.blog, { [path]: faulty }, { insist: true })).toMatchObject({ ok: true })
    const one = internalRequest('/')
    const { status, body } = await answer(test.blog, one)
    expect([status, body.includes(one.id), body.includes('liquid')]).toEqual([500, true, false])
    expect((await walk('/')).failure).toMatchObject({
      stage: 'templates',
      place: { document: path, line: 4 },
    })
    expect(await saveTexts(test.blog, { [path]: text })).toMatchObject({ ok: true })
    expect((await get('/')).status).toBe(200)
  })
  it('an invalid definition never replaces a valid one', async () => {
    const before = test.blog.site.version
    expect(await saveTexts(test.blog, { 'routes.yaml': '- name: x' })).toMatchObject({
      ok: false,
      why: 'problems',
    })
    expect([test.blog.site.version, (await get('/')).status]).toEqual([before, 200])
  })
})

describe('a runaway template', () => {
  it('costs its limit once: the address then answers 500 without rendering, until content or definition change', async () => {
    const path = 'templates/pages/archive.liquid'
    const before = await textOf(test.blog, path)
    const runaway =
      '{% for a in (1..9000) %}{% for b in (1..9000) %}{% assign c = b %}{% endfor %}{% endfor %}'
    const broken = before.replace(/{% block (\w+) %}/, (block) => block + runaway)
    await saveTexts(test.blog, { [path]: broken }, { insist: true })
    const first = await walk('/archive')
    expect([first.response.status, first.templates.rounds]).toEqual([500, 1])
    for (const again of [await walk('/archive'), await walk('/archive?anything=1')]) {
      expect([again.response.status, again.templates.rounds]).toEqual([500, 0])
      expect(again.failure?.message).toBe(first.failure?.message)
    }
    expect((await get('/posts')).status).toBe(200)
    await editPost(test.blog, 'moth', (text) => `${text}\nMore.`)
    expect((await walk('/archive')).templates.rounds).toBe(1)
    await saveTexts(test.blog, { [path]: before })
    expect((await get('/archive')).status).toBe(200)
  })
})
