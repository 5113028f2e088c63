// Slugs on real PostgreSQL: former addresses redirect in one step, existing rows come first, and the database decides.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { answer } from '../../reader/answer.ts'
import { internalRequest } from '../../reader/request.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost, renameSlug } from '../../testing/edits.ts'
import { formRequest } from '../../testing/requests.ts'
import { checkSlug } from './slugs.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const get = (target: string, as: 'reader' | 'author' = 'reader') =>
  answer(test.blog, internalRequest(target, { as }))
const redirect = async (target: string, as: 'reader' | 'author' = 'reader') => {
  const { status, headers } = await get(target, as)
  return [status, headers['location']]
}
const change = (kind: SlugKind, from: string, to: string) => renameSlug(test.blog, kind, from, to)
const edit = (slug: string, from: RegExp, to: string) =>
  editPost(test.blog, slug, (text) => text.replace(from, to))

describe('a changed slug', () => {
  it('of a published post redirects with one 301, also after another change (RFC 9110 §15.4.2)', async () => {
    await edit('moth', /^slug: .*$/m, 'slug: moths')
    expect(await redirect('/posts/moth')).toEqual([301, '/posts/moths'])
    expect(await redirect('/posts/moth?from=mail')).toEqual([301, '/posts/moths?from=mail'])
    await edit('moths', /^slug: .*$/m, 'slug: about-moths')
    expect(await redirect('/posts/moth')).toEqual([301, '/posts/about-moths'])
    expect(await redirect('/posts/moths')).toEqual([301, '/posts/about-moths'])
    expect((await get('/posts/about-moths')).status).toBe(200)
  })
  it('that is changed back leaves no redirect at the current address', async () => {
    await edit('about-moths', /^slug: .*$/m, 'slug: moth')
    expect((await get('/posts/moth')).status).toBe(200)
    expect(await redirect('/posts/about-moths')).toEqual([301, '/posts/moth'])
  })
  it('that another post takes belongs to that post, and later redirects to the last post that had it', async () => {
    await change('post', 'zip-surgery', 'zip-clinic')
    await change('post', 'hems-in-an-hour', 'zip-surgery')
    expect((await get('/posts/zip-surgery')).body).toContain('Hems in an hour')
    await change('post', 'zip-surgery', 'hems')
    expect(await redirect('/posts/zip-surgery')).toEqual([301, '/posts/hems'])
  })
  it('of a draft does not redirect, because it was never public', async () => {
    const result = await change('post', 'letter-to-a-new-volunteer', 'letter')
    expect(result).toMatchObject({ ok: true, value: { former: [] } })
    expect((await get('/posts/letter-to-a-new-volunteer')).status).toBe(404)
  })
  it('of an unpublished post redirects only for the author', async () => {
    await change('post', 'brakes-that-howl', 'howling-brakes')
    await edit('howling-brakes', /^published: .*\n/m, '')
    expect((await get('/posts/brakes-that-howl')).status).toBe(404)
    expect(await redirect('/posts/brakes-that-howl', 'author')).toEqual([301, '/posts/howling-brakes'])
  })
  it('of a category redirects its listing, and posts link to the new address at once', async () => {
    expect((await get('/posts')).body).toContain('/category/electrical')
    await change('category', 'electrical', 'things-with-plugs')
    // Two queries find no rows. The result must not depend on which of them is faster.
    for (let times = 0; times < 20; times++)
      expect(await redirect('/category/electrical?page=2')).toEqual([
        301,
        '/category/things-with-plugs?page=2',
      ])
    const { body } = await get('/posts')
    expect([body.includes('/category/things-with-plugs'), body.includes('/category/electrical')]).toEqual([
      true,
      false,
    ])
  })
  it('redirects a comment that is sent from an old page (RFC 9110 §15.4.9)', async () => {
    await change('post', 'soldering-is-not-gluing', 'soldering')
    const response = await answer(
      test.blog,
      formRequest('/posts/soldering-is-not-gluing/comments', { name: 'R', text: 'From an old tab' }),
    )
    expect([response.status, response.headers['location']]).toEqual([308, '/posts/soldering/comments'])
  })
  it('is deleted with its row', async () => {
    await change('tag', 'zips', 'zippers')
    await test.database.query("DELETE FROM tag WHERE slug = 'zippers'")
    expect(await test.database.query("SELECT * FROM former_slug WHERE slug = 'zips'")).toEqual([])
  })
})

describe('a moved page', () => {
  it('moves with its subtree, and every former path redirects', async () => {
    const result = await change('page', 'open-days', 'saturdays')
    expect(result).toMatchObject({
      ok: true,
      value: { former: ['open-days', 'open-days/house-rules', 'open-days/what-to-bring'] },
    })
    expect(await redirect('/open-days/house-rules')).toEqual([301, '/saturdays/house-rules'])
    expect((await get('/saturdays/what-to-bring')).status).toBe(200)
    expect((await get('/')).body).toContain('href="/saturdays"')
  })
  it('redirects in one step from every address that it ever had', async () => {
    await change('page', 'saturdays', 'about/saturdays')
    expect(await redirect('/open-days/house-rules')).toEqual([301, '/about/saturdays/house-rules'])
    expect(await redirect('/saturdays')).toEqual([301, '/about/saturdays'])
    const [row] = await test.database.query<{ parent: string }[]>(
      "SELECT parent.path AS parent FROM page JOIN page parent ON parent.id = page.parent_id WHERE page.path = 'about/saturdays'",
    )
    expect(row?.parent).toBe('about')
  })
  it.each([
    ['about', 'about/saturdays/about', 'tree-cycle'],
    ['about', 'nowhere/about', 'tree-parent-unknown'],
    ['about', 'tool-library', 'path-taken'],
    ['about', 'A', 'slug-character'],
  ])('%s cannot move to %s', async (from, to, code) => {
    expect(await change('page', from, to)).toMatchObject({ ok: false, problems: [{ code }] })
  })
})

describe('concurrent changes', () => {
  it('give a slug only once', async () => {
    const posts = await test.database.query<{ slug: string }[]>(
      'SELECT slug FROM post ORDER BY id DESC LIMIT 8',
    )
    const results = await Promise.all(posts.map(({ slug }) => change('post', slug, 'the-one-slug')))
    expect(results.filter((one) => one.ok)).toHaveLength(1)
    for (const one of results) if (!one.ok) expect(one.problems).toMatchObject([{ code: 'slug-taken' }])
    expect(await test.database.query("SELECT count(*)::int FROM post WHERE slug = 'the-one-slug'")).toEqual([
      { count: 1 },
    ])
  })
  it('save a slug of two posts only once', async () => {
    const results = await Promise.all(
      ['the-toaster-inquest', 'chair-number-two-hundred'].map((slug) =>
        edit(slug, /^slug: .*$/m, 'slug: contested'),
      ),
    )
    expect(results.map((one) => one.ok).sort()).toEqual([false, true])
    expect(results.find((one) => !one.ok)).toMatchObject({
      problems: [{ code: 'slug-taken', path: '/slug' }],
    })
  })
  it('of the page tree leave consistent paths', async () => {
    await Promise.all([
      change('page', 'tool-library', 'about/tools'),
      change('page', 'about', 'us'),
      change('page', 'about/people', 'people'),
    ])
    const wrong = await test.database.query(
      `SELECT page.path FROM page LEFT JOIN page parent ON parent.id = page.parent_id
       WHERE page.path <> coalesce(parent.path || '/', '') || page.slug`,
    )
    expect(wrong).toEqual([])
  })
})

describe('checkSlug', () => {
  const check = (text: string, more: { fromTitle?: boolean; own?: string; kind?: SlugKind } = {}) =>
    checkSlug(
      test.blog,
      { maximum: 40, reserved: new Set(['new']) },
      { kind: more.kind ?? 'post', text, fromTitle: more.fromTitle ?? false, own: more.own },
      (slug) => (slug === 'archive' ? { address: '/posts/archive', route: 'archive' } : undefined),
    )
  it.each([
    ['something-new', {}, { free: true, note: null, suggestion: 'something-new' }],
    ['Something New!', { fromTitle: true }, { slug: 'something-new', free: true }],
    [
      'the-cuckoo-that-came-out-backwards',
      {},
      {
        free: false,
        note: expect.stringContaining('has this slug') as string,
        suggestion: 'the-cuckoo-that-came-out-backwards-2',
      },
    ],
    [
      'the-cuckoo-that-came-out-backwards',
      { own: 'the-cuckoo-that-came-out-backwards' },
      { free: true, note: null },
    ],
    ['new', {}, { free: false, note: expect.stringContaining('reserved') as string, suggestion: 'new-2' }],
    [
      'archive',
      {},
      {
        free: true,
        note: expect.stringContaining('route “archive”') as string,
      },
    ],
    ['A/B', {}, { free: false, suggestion: 'a-b' }],
    ['♥', { fromTitle: true }, { free: false, suggestion: '' }],
    [
      'bicycles',
      { kind: 'category' as const },
      { free: false, note: expect.stringContaining('“Bicycles”') as string },
    ],
  ])('%s %j', async (text, more, expected) => {
    expect(await check(text, more)).toMatchObject(expected)
  })
})
