// Slugs on real PostgreSQL: old addresses lead on in one step, living rows come first, and the database has the last word.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { DEFAULT_SLUG_RULES } from '../../../core/slugs/slug.ts'
import { answer } from '../../reader/answer.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { postFile, savePost } from '../posts/posts.ts'
import { changeSlug, judgeSlug, type SlugChange } from './slugs.ts'
import type { SlugKind } from '../../../core/shapes/content-kinds.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const get = (target: string, as: 'reader' | 'author' = 'reader', method = 'GET') =>
  answer(test.blog, {
    id: 'slugs',
    method,
    target,
    as,
    header: (name) => (name === 'origin' ? 'http://b.test' : name === 'host' ? 'b.test' : undefined),
    form: () => Promise.resolve({ ok: true, fields: { name: 'R', text: 'From an old tab' } }),
  })
const leads = async (target: string, as: 'reader' | 'author' = 'reader') => {
  const { status, headers } = await get(target, as)
  return [status, headers['location']]
}
const change = async (kind: SlugKind, from: string, to: string): Promise<SlugChange> => {
  const result = await changeSlug(test.database, DEFAULT_SLUG_RULES, kind, from, to)
  if (result.outcome === 'changed') for (const one of result.changes) test.blog.changed(one)
  return result
}
const edit = async (slug: string, from: RegExp, to: string) => {
  const file = await postFile(test.database, slug)
  if (!file) throw new Error(`no post ${slug}`)
  return await savePost(test.blog, slug, file.text.replace(from, to), file.version)
}

describe('a slug that was changed', () => {
  it('of a published post: the old address answers with one 301, also after another change (RFC 9110 §15.4.2)', async () => {
    await edit('moth', /^slug: .*$/m, 'slug: moths')
    expect(await leads('/posts/moth')).toEqual([301, '/posts/moths'])
    expect(await leads('/posts/moth?from=mail')).toEqual([301, '/posts/moths?from=mail'])
    await edit('moths', /^slug: .*$/m, 'slug: about-moths')
    expect(await leads('/posts/moth')).toEqual([301, '/posts/about-moths'])
    expect(await leads('/posts/moths')).toEqual([301, '/posts/about-moths'])
    expect((await get('/posts/about-moths')).status).toBe(200)
  })
  it('back to what it was: no redirect is left on the living address', async () => {
    await edit('about-moths', /^slug: .*$/m, 'slug: moth')
    expect((await get('/posts/moth')).status).toBe(200)
    expect(await leads('/posts/about-moths')).toEqual([301, '/posts/moth'])
  })
  it('taken by another post: the living one is what it names; renamed, it leads to the one that had it last', async () => {
    await change('post', 'zip-surgery', 'zip-clinic')
    await change('post', 'hems-in-an-hour', 'zip-surgery')
    expect((await get('/posts/zip-surgery')).body).toContain('Hems in an hour')
    await change('post', 'zip-surgery', 'hems')
    expect(await leads('/posts/zip-surgery')).toEqual([301, '/posts/hems'])
  })
  it('of a draft: nobody knew it, so nothing leads on', async () => {
    const result = await change('post', 'letter-to-a-new-volunteer', 'letter')
    expect(result).toMatchObject({ outcome: 'changed', former: [] })
    expect((await get('/posts/letter-to-a-new-volunteer')).status).toBe(404)
  })
  it('of a post taken back: for a reader there is nothing, for its author it leads on', async () => {
    await change('post', 'brakes-that-howl', 'howling-brakes')
    await edit('howling-brakes', /^published: .*\n/m, '')
    expect((await get('/posts/brakes-that-howl')).status).toBe(404)
    expect(await leads('/posts/brakes-that-howl', 'author')).toEqual([301, '/posts/howling-brakes'])
  })
  it('of a category: its listing leads on, and posts link to the new one at once', async () => {
    expect((await get('/posts')).body).toContain('/category/electrical')
    await change('category', 'electrical', 'things-with-plugs')
    // Its posts are not found either; which of the two queries is faster must not matter.
    for (let times = 0; times < 20; times++)
      expect(await leads('/category/electrical?page=2')).toEqual([301, '/category/things-with-plugs?page=2'])
    const { body } = await get('/posts')
    expect([body.includes('/category/things-with-plugs'), body.includes('/category/electrical')]).toEqual([
      true,
      false,
    ])
  })
  it('a comment sent from an old tab goes where the post is now (RFC 9110 §15.4.9)', async () => {
    await change('post', 'soldering-is-not-gluing', 'soldering')
    const response = await get('/posts/soldering-is-not-gluing/comments', 'reader', 'POST')
    expect([response.status, response.headers['location']]).toEqual([308, '/posts/soldering/comments'])
  })
  it('is forgotten with its row', async () => {
    await change('tag', 'zips', 'zippers')
    await test.database.query("DELETE FROM tag WHERE slug = 'zippers'")
    expect(await test.database.query("SELECT * FROM former_slug WHERE slug = 'zips'")).toEqual([])
  })
})

describe('a page that is moved', () => {
  it('takes its subtree along, and every old path leads on', async () => {
    const result = await change('page', 'open-days', 'saturdays')
    expect(result).toMatchObject({
      outcome: 'changed',
      former: ['open-days', 'open-days/house-rules', 'open-days/what-to-bring'],
    })
    expect(await leads('/open-days/house-rules')).toEqual([301, '/saturdays/house-rules'])
    expect((await get('/saturdays/what-to-bring')).status).toBe(200)
    expect((await get('/')).body).toContain('href="/saturdays"')
  })
  it('below another page, in one step from every address it ever had', async () => {
    await change('page', 'saturdays', 'about/saturdays')
    expect(await leads('/open-days/house-rules')).toEqual([301, '/about/saturdays/house-rules'])
    expect(await leads('/saturdays')).toEqual([301, '/about/saturdays'])
    const [row] = await test.database.query<{ parent: string }[]>(
      "SELECT parent.path AS parent FROM page JOIN page parent ON parent.id = page.parent_id WHERE page.path = 'about/saturdays'",
    )
    expect(row?.parent).toBe('about')
  })
  it.each([
    ['about', 'about/saturdays/about', /cannot be its own ancestor/],
    ['about', 'nowhere/about', /no page “nowhere” to move it below/],
    ['about', 'tool-library', /another page has the path/],
    ['about', 'A', /not “A”/],
  ])('%s not to %s', async (from, to, message) => {
    expect(await change('page', from, to)).toMatchObject({
      outcome: 'refused',
      message: expect.stringMatching(message) as string,
    })
  })
})

describe('two at once', () => {
  it('the same slug is given once, whoever asks, and nobody sees an error', async () => {
    const posts = await test.database.query<{ slug: string }[]>(
      'SELECT slug FROM post ORDER BY id DESC LIMIT 8',
    )
    const results = await Promise.all(posts.map(({ slug }) => change('post', slug, 'the-one-slug')))
    expect(results.map((one) => one.outcome).sort()).toEqual(['changed', ...Array<string>(7).fill('refused')])
    expect(await test.database.query("SELECT count(*)::int FROM post WHERE slug = 'the-one-slug'")).toEqual([
      { count: 1 },
    ])
  })
  it('two saves of two posts with the same new slug: one is told', async () => {
    const results = await Promise.all(
      ['the-toaster-inquest', 'chair-number-two-hundred'].map((slug) =>
        edit(slug, /^slug: .*$/m, 'slug: contested'),
      ),
    )
    expect(results.map((one) => one.outcome).sort()).toEqual(['problems', 'saved'])
    expect(results.find((one) => one.outcome === 'problems')).toMatchObject({ problems: [{ path: '/slug' }] })
  })
  it('two moves of the page tree leave paths that follow it', async () => {
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

describe('judgeSlug', () => {
  const judge = (text: string, more: { fromTitle?: boolean; own?: string; kind?: SlugKind } = {}) =>
    judgeSlug(
      test.database,
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
    ['new', {}, { free: false, note: '“new” is reserved in the settings', suggestion: 'new-2' }],
    [
      'archive',
      {},
      {
        free: true,
        note: expect.stringContaining('/posts/archive, is answered by route “archive”') as string,
      },
    ],
    ['A/B', {}, { free: false, suggestion: 'a-b' }],
    ['♥', { fromTitle: true }, { free: false, note: 'no slug can be made from this title; write one' }],
    [
      'bicycles',
      { kind: 'category' as const },
      { free: false, note: 'the category “Bicycles” has this slug' },
    ],
  ])('%s %j', async (text, more, expected) => {
    expect(await judge(text, more)).toMatchObject(expected)
  })
})
