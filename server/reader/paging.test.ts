// Pages of listings on real PostgreSQL: by number and by cursor, with exact and estimated totals, forward and back. They
// are compared with the unpaged list that PostgreSQL returns.
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5'
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import type { Query } from '../../core/shapes/schemas.ts'
import type { CursorPage } from '../../core/paging/cursor.ts'
import type { NumberedPage } from '../../core/paging/numbered.ts'
import { readMeaning } from '../../core/queries/meaning.ts'
import { compileQuery } from '../store/statements/compile-query.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { saveTexts, textOf } from '../testing/edits.ts'
import { answer } from './answer.ts'
import { requestedPage, runPage } from './paged.ts'
import { internalRequest } from './request.ts'
import type { Row } from '../store/statements/run-query.ts'
import type { SiteQuery } from '../publish/site.ts'
import { Walk } from './walk/walk.ts'

let test: TestBlog
beforeAll(async () => (test = await testBlog()))
afterAll(() => test.close())

const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const get = async (target: string) => {
  const request = internalRequest(target)
  const walk = new Walk(request, new Date(), test.blog.site.version)
  return { ...(await answer(test.blog, request, walk)), walk: walk.record }
}

function queryOf(yaml: Query): SiteQuery {
  const read = readMeaning(yaml)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const compiled = compileQuery(test.database, read.meaning, 'reader', test.blog.site.definition)
  return { name: 'listing', meaning: read.meaning, compiled: { reader: compiled, author: compiled } }
}
const pageAt = async <Page>(query: SiteQuery, text: string, parameters = {}) => {
  const search = new URLSearchParams(text)
  return (
    await runPage(
      { ports: test.blog, query, as: 'reader', parameters, at: { path: '/list', search } },
      requestedPage(test.blog, query, parameters, search),
    )
  ).shown as Page
}
const searchOf = (link: { url: string } | null | undefined) => link?.url.replace(/^[^?]*\??/, '')
const idsOf = ({ items }: { items: Row[] }) => items.map((one) => Number(one['id']))

const ORDERS = [
  ['-publishedAt'],
  ['publishedAt'],
  ['title'],
  ['category.name', '-publishedAt'],
  ['-category.name', 'wordCount'],
  ['-wordCount'],
  ['commentsOpen', '-author.name', 'id'],
]

describe('by cursor', () => {
  it.each(ORDERS)(
    'every row once, in the order of the unpaged list, forward and back: %s %s',
    async (...order) => {
      for (const where of [[], ['published']]) {
        const all = queryOf({ from: 'posts', where, order, take: 'all' })
        const expected = idsOf({ items: await pageAt<Row[]>(all, '') })
        const paged = queryOf({
          from: 'posts',
          where,
          order,
          take: 'pages',
          pages: { size: 5, by: 'cursor' },
        })
        const forward: number[][] = []
        let page = await pageAt<CursorPage<Row>>(paged, '')
        expect([page.previous, page.first]).toEqual([null, null])
        for (;;) {
          forward.push(idsOf(page))
          if (!page.next) break
          page = await pageAt(paged, searchOf(page.next) ?? '')
        }
        expect(forward.flat()).toEqual(expected)
        const back = [idsOf(page)]
        while (page.previous) {
          page = await pageAt(paged, searchOf(page.previous) ?? '')
          back.unshift(idsOf(page))
        }
        expect(back).toEqual(forward)
      }
    },
  )

  it('times are compared with microseconds', async () => {
    await sql(
      `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at)
       SELECT 'Tick', 'tick-' || n, '', '', '', '2', 1, '2024-02-29T12:00:00Z'::timestamptz + n * interval '1 microsecond' FROM generate_series(1, 7) n`,
    )
    const query = queryOf({
      from: 'posts',
      where: [{ field: 'title', is: 'equal', to: 'Tick' }],
      order: ['publishedAt'],
      take: 'pages',
      pages: { size: 1, by: 'cursor' },
    })
    const slugs: unknown[] = []
    for (let search: string | undefined = ''; search !== undefined;) {
      const page: CursorPage<Row> = await pageAt(query, search)
      slugs.push(page.items[0]?.['slug'])
      search = searchOf(page.next)
    }
    expect(slugs).toEqual([1, 2, 3, 4, 5, 6, 7].map((n) => `tick-${n}`))
    await sql("DELETE FROM post WHERE title = 'Tick'")
  })

  it('a page after which no rows are left is empty and links to the first page', async () => {
    const query = queryOf({
      from: 'tags',
      order: ['name'],
      take: 'pages',
      pages: { size: 14, by: 'cursor', parameter: 'at' },
    })
    const first = await pageAt<CursorPage<Row>>(query, 'kept=1')
    await sql('DELETE FROM tag WHERE name = (SELECT max(name) FROM tag)')
    const page = await pageAt<CursorPage<Row>>(query, searchOf(first.next) ?? '')
    expect(idsOf(page)).toEqual([])
    expect(page).toMatchObject({ previous: null, next: null, first: { url: '/list?kept=1' } })
  })

  it('there is a total only if the query has one', async () => {
    const by = (count?: 'exact') =>
      pageAt<CursorPage<Row>>(
        queryOf({
          from: 'authors',
          take: 'pages',
          pages: { size: 2, by: 'cursor', ...(count ? { count } : {}) },
        }),
        '',
      )
    expect([(await by()).total, (await by('exact')).total]).toEqual([null, 5])
  })
})

describe('the archive of the demo', () => {
  it('is paged by its links, and each page has one address', async () => {
    const seen: string[] = []
    let target = '/archive'
    for (;;) {
      const { status, body } = await get(target)
      expect(status).toBe(200)
      seen.push(...[...body.matchAll(/<li><time.*?href="\/posts\/([a-z0-9-]+)"/g)].map((one) => one[1] ?? ''))
      expect(/<link rel="canonical" href="([^"]+)">/.exec(body)?.[1]).toBe(target)
      const next = /<a rel="next" href="([^"]+)"/.exec(body)?.[1]
      if (next === undefined) break
      expect(body).toContain(`<link rel="next" href="${next}">`)
      target = next
    }
    const all = await sql<{ slug: string }>(
      'SELECT slug FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC',
    )
    expect(seen).toEqual(all.map((one) => one.slug))
  })
  it('shows the first page for forged, truncated and foreign cursors, and the walk says why', async () => {
    const whole = searchOf({ url: /rel="next" href="([^"]+)"/.exec((await get('/archive')).body)?.[1] ?? '' })
    const cursor = new URLSearchParams(whole).get('from') ?? ''
    const beginning = (await get('/archive')).body
    for (const bad of [
      cursor.slice(0, -1),
      cursor.slice(1),
      `${cursor}A`,
      cursor.replace('.', ''),
      Buffer.from('["a","2026-01-01","1"]').toString('base64url'),
      '%00',
      '%ED%A0%80',
      '2',
      '-1',
      "'; DROP TABLE post; --",
      'x'.repeat(10_000),
    ]) {
      const { status, body, walk } = await get(`/archive?from=${encodeURIComponent(bad)}`)
      expect(status === 200 || status === 414, bad.slice(0, 50)).toBe(true)
      if (status !== 200) continue
      expect(body.replaceAll(/[?&]from=[^"&]*/g, '')).toBe(beginning.replaceAll(/[?&]from=[^"&]*/g, ''))
      expect(walk.parameters.find((one) => one.name === 'from')).toMatchObject({ isInvalid: true })
    }
    // A cursor of another blog, which has another key.
    const other = await testBlog()
    const moved = test.blog
    test = { ...test, blog: other.blog }
    const { body, walk } = await get(`/archive?from=${cursor}`)
    test = { ...test, blog: moved }
    await other.close()
    expect(body).toContain('rel="next"')
    expect(walk.parameters.find((one) => one.name === 'from')).toMatchObject({ isInvalid: true })
  })
})

describe('the canonical address', () => {
  const canonical = async (target: string) =>
    /<link rel="canonical" href="([^"]+)">/.exec((await get(target)).body)?.[1]
  it.each([
    ['/posts', '/posts'],
    ['/posts?page=2', '/posts?page=2'],
    ['/posts?page=abc', '/posts'],
    ['/posts?page=2&utm=x&fbclid=1', '/posts?page=2'],
    ['/search?q=zip&x=1', '/search?q=zip'],
    ['/posts/moth?page=2', '/posts/moth'],
  ])('of %s is %s', async (target, expected) => {
    expect((await canonical(target))?.replaceAll('&amp;', '&')).toBe(expected)
  })
  it('previous and next pages are linked in the head, without parameters that the page does not use', async () => {
    const { body } = await get('/posts?page=3&from=newsletter')
    const links = body.match(/<link rel="(?:prev|next)"[^>]*>/g)
    expect(links).toEqual([
      '<link rel="prev" href="/posts?page=2">',
      '<link rel="next" href="/posts?page=4">',
    ])
  })
})

describe('estimated totals', () => {
  const countIn = async (category: string) =>
    (
      await sql<{ count: number }>(
        'SELECT count(*)::int AS count FROM post WHERE category_id = (SELECT id FROM category WHERE slug = $1)',
        [category],
      )
    )[0]?.count ?? 0
  const query = (more: object = {}) =>
    queryOf({
      from: 'posts',
      where: [{ field: 'category.slug', is: 'equal', to: ':category' }],
      order: ['-publishedAt'],
      take: 'pages',
      pages: { size: 10, count: 'estimated', ...more },
    })
  beforeAll(async () => {
    // Two thirds are in one category: the estimate depends on the parameter.
    await sql(
      `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at, category_id)
       SELECT 'Bulk', 'bulk-' || n, '', '', '', '2', 1, now() - n * interval '1 minute',
         (SELECT id FROM category WHERE slug = CASE WHEN n % 3 = 0 THEN 'bicycles' ELSE 'textiles' END)
       FROM generate_series(1, 40000) n`,
    )
    await sql('ANALYZE post')
  })

  it('few rows are counted, many are estimated with two digits, for the given parameter', async () => {
    const about = async (category: string) => {
      const { total, isEstimated } = await pageAt<NumberedPage<Row>>(query(), '', { category })
      return { total, isEstimated }
    }
    expect(await about('lamps')).toEqual({ total: await countIn('lamps'), isEstimated: false })
    expect(await about('no-such')).toEqual({ total: 0, isEstimated: false })
    const textiles = await about('textiles')
    expect(textiles.isEstimated).toBe(true)
    expect(Math.abs(textiles.total - 26_667)).toBeLessThan(2_700)
    expect(String(textiles.total)).toMatch(/^\d\d0+$/)
    const bicycles = await about('bicycles')
    expect(Math.abs(bicycles.total - 13_333)).toBeLessThan(1_400)
  })
  it('pages are linked as far as rows are known to exist, and the text says “about”', async () => {
    const page = await pageAt<NumberedPage<Row>>(query(), 'page=3', { category: 'textiles' })
    expect(page.pages.map((one) => (one.gap ? '…' : one.number))).toEqual([1, 2, 3, 4, '…'])
    expect([page.previous?.number, page.next?.number, page.last]).toEqual([2, 4, null])
    const lastPage = await pageAt<NumberedPage<Row>>(query({ 'past-the-end': 'last' }), 'page=99999', {
      category: 'textiles',
    })
    const total = await countIn('textiles')
    expect([lastPage.page, lastPage.next, lastPage.items.length]).toEqual([
      Math.ceil(total / 10),
      null,
      total % 10 || 10,
    ])
    const path = 'queries/all-posts.yaml'
    const text = (await textOf(test.blog, path)).replace(
      'parameter: page',
      'parameter: page, count: estimated',
    )
    expect((await saveTexts(test.blog, { [path]: text })).ok).toBe(true)
    const { body, walk } = await get('/posts?page=2')
    expect(body).toMatch(/Posts 7 to 12 of about 4\d000</)
    expect(walk.queries.runs.find((one) => one.data === 'posts')).toMatchObject({
      rows: 6,
      isEstimated: true,
    })
  })
})

describe('grouped counts', () => {
  const rows = (yaml: Query) => pageAt<Row[]>(queryOf(yaml), '')
  const plain = async (yaml: Query) => JSON.parse(JSON.stringify(await rows(yaml))) as Row[]
  beforeAll(() => sql("DELETE FROM post WHERE title = 'Bulk'"), 60_000)
  it('by month equal PostgreSQL’s in the blog’s time zone', async () => {
    const counted = await plain({
      from: 'posts',
      where: ['published'],
      'count-by': ['publishedYear', 'publishedMonth'],
      order: ['-publishedYear', '-publishedMonth'],
      take: 'all',
    })
    const expected = await sql(
      `SELECT extract(year FROM at)::int AS "publishedYear", extract(month FROM at)::int AS "publishedMonth", count(*)::int AS count
       FROM (SELECT published_at AT TIME ZONE 'Europe/London' AS at FROM post WHERE published_at <= now()) AS local
       GROUP BY 1, 2 ORDER BY 1 DESC, 2 DESC`,
    )
    expect(counted).toEqual(expected.map((one) => ({ ...(one as object) })))
  })
  it('by tag count a post for each tag, and by category also posts without one', async () => {
    const tags = await plain({
      from: 'posts',
      'count-by': ['tags.slug'],
      order: ['-count', 'tags.slug'],
      take: 'first 2',
    })
    const expected = await sql<{ slug: string; count: number }>(
      'SELECT tag.slug, count(*)::int AS count FROM post_tag JOIN tag ON tag.id = tag_id GROUP BY 1 ORDER BY 2 DESC, 1 LIMIT 2',
    )
    expect(tags).toEqual(expected.map(({ slug, count }) => ({ tags: { slug }, count })))
    await sql("UPDATE post SET category_id = NULL WHERE slug = 'moth'")
    const categories = await plain({ from: 'posts', 'count-by': ['category.slug'], take: 'all' })
    expect(categories.at(-1)).toEqual({ category: null, count: 1 })
  })
  it('are one statement for any number of groups', async () => {
    const { walk } = await get('/archive')
    expect(walk.queries.runs.find((one) => one.data === 'months')?.statements).toHaveLength(1)
  })
})

describe('the pager', () => {
  type Element = DefaultTreeAdapterTypes.Element
  beforeEach(async () => expect((await get('/posts')).status).toBe(200))
  it('is a labelled list of links with one current page', async () => {
    const { body } = await get('/posts?page=2')
    const html = body.slice(
      body.indexOf('<nav class="pager"'),
      body.indexOf('</nav>', body.indexOf('class="pager"')) + 6,
    )
    const nav = parseFragment(html).childNodes[0] as Element
    const attributes = (one: Element) => Object.fromEntries(one.attrs.map(({ name, value }) => [name, value]))
    expect(attributes(nav)['aria-label']).toBe('Pages')
    const inside = nav.childNodes.filter((one): one is Element => 'tagName' in one)
    const current = inside.filter((one) => attributes(one)['aria-current'] === 'page')
    expect(current.map((one) => one.tagName)).toEqual(['b'])
    for (const one of inside.filter((link) => link.tagName === 'a'))
      expect(attributes(one)['href']).toMatch(/^\/posts/)
  })
})
