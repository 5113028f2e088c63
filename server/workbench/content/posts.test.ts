// Posts over the API: created, found, changed, deleted and restored, and what readers see of them.
import { withoutTokens } from '../../testing/comments.ts'
import { poolOf } from '../../store/connection.ts'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listPosts } from '../../author/posts/post-list.ts'
import { wordsQuery } from '../../store/content/posts.ts'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import type { AnswerOf } from '../../../contract/operations.ts'
import type { Appearance, Post, PostList } from '../../../contract/posts.ts'

type ChangedPosts = AnswerOf<'POST /api/posts/change'>

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
})
afterAll(() => test.close())

const api: TestWorkbench['api'] = (...words) => test.api(...words)
const blog = (path: string) => test.read(path)
const list = async (query: string) => (await api<PostList>('GET', `/api/posts?${query}`)).answer
const read = async (slug: string) => await api<Post>('GET', `/api/post?slug=${slug}`)
const ref = async (slug: string) => ({ slug, version: (await read(slug)).answer.version })

describe('the list', () => {
  it('counts the states', async () => {
    const all = await list('')
    expect([all.total, all.states, all.posts.length]).toEqual([
      48,
      { draft: 4, scheduled: 3, published: 41 },
      25,
    ])
    expect((await list('state=draft')).posts.map((one) => one.state)).toEqual(Array(4).fill('draft'))
    expect((await list('state=scheduled')).total).toBe(3)
  })
  it('has every post on exactly one page, in any order', async () => {
    for (const sort of ['published', '-published', 'updated', '-updated', 'title', '-title']) {
      const pages = await Promise.all([1, 2, 3, 4].map((page) => list(`sort=${sort}&size=13&page=${page}`)))
      const slugs = pages.flatMap((one) => one.posts.map((post) => post.slug))
      expect([sort, slugs.length, new Set(slugs).size]).toEqual([sort, 48, 48])
    }
    const titles = (await list('sort=title&size=100')).posts.map((one) => one.title)
    // The database sorts by code point here (C.UTF-8).
    expect(titles).toEqual([...titles].sort((a, b) => (a < b ? -1 : 1)))
    // Unpublished posts come before the latest.
    expect((await list('size=7')).posts.map((one) => one.state)).not.toContain('published')
  })
  it.each([
    ['zip sur', ['zip-surgery']],
    ['ZIP', ['zip-surgery']],
    ['bicycle bell', ['a-bicycle-bell-is-four-parts']],
    ['no such words anywhere', []],
    ['%_\\', []],
    ["'; DROP TABLE post; --", []],
  ])('finds “%s”', async (search, wanted) => {
    const { posts } = await list(`search=${encodeURIComponent(search)}`)
    const slugs = posts.map((one) => one.slug)
    if (wanted.length === 0) expect(slugs).toEqual([])
    else expect(slugs).toEqual(expect.arrayContaining(wanted))
  })
  it('finds words of texts, not only of titles', async () => {
    const [row] = await test.database.query<{ word: string; slug: string }[]>(
      "SELECT slug, (regexp_match(body, '([a-z]{12,})'))[1] AS word FROM post WHERE body ~ '[a-z]{12,}' ORDER BY id LIMIT 1",
    )
    const { posts } = await list(`search=${row?.word ?? ''}`)
    expect(posts.map((one) => one.slug)).toContain(row?.slug)
  })
  it('finds the same posts with a limited count of a common word', async () => {
    const all = await listPosts(test.database, { search: 'the', size: 100 })
    const some = await listPosts(test.database, { search: 'the', size: 100 }, 5)
    expect([all.isMore, some.isMore, some.total, some.states]).toEqual([false, true, 5, null])
    expect(some.posts).toEqual(all.posts)
    expect(all.total).toBeGreaterThan(5)
  })
  it('does not treat typed characters as operators', () => {
    expect(wordsQuery("it's | (a) & !b:*")).toBe("'it' & 's' & 'a' & 'b':*")
    expect(wordsQuery('&|!')).toBe('')
  })
  it('filters by category, author and tag', async () => {
    const { posts } = await list('category=electrical&size=100')
    expect(new Set(posts.map((one) => one.category?.slug))).toEqual(new Set(['electrical']))
    expect((await list('author=wen-adeyemi')).total).toBeGreaterThan(0)
    expect((await list('tag=mending')).total).toBeGreaterThan(0)
    expect((await list('category=none')).total).toBe(0)
    expect((await api('GET', '/api/posts?sort=1;drop')).status).toBe(400)
    expect((await api('GET', '/api/posts?size=1000')).status).toBe(400)
  })
})

describe('a post', () => {
  it('is created as a draft with a free slug, published, renamed, and shown at its address each time', async () => {
    const made = await api<{ slug: string; version: number }>('POST', '/api/posts', {
      matter: { title: 'Moth' },
      body: 'A *second* moth.',
    })
    expect([made.status, made.answer.slug, made.etag]).toEqual([200, 'moth-2', '"1"'])
    expect((await blog('/posts/moth-2')).status).toBe(404)
    const now = await api('POST', '/api/posts/change', {
      posts: [{ slug: 'moth-2', version: 1 }],
      change: { published: 'now', category: 'textiles', addTags: ['mending'] },
    })
    expect(now.answer).toMatchObject({ results: [{ slug: 'moth-2', version: 2 }] })
    const page = await blog('/posts/moth-2')
    expect([page.status, page.text.includes('A <em>second</em> moth.')]).toEqual([200, true])
    expect((await blog('/posts')).text).toContain('/posts/moth-2')
    const { answer, etag } = await read('moth-2')
    expect([answer.state, etag]).toEqual(['published', '"2"'])
    const renamed = await api('PUT', '/api/post?slug=moth-2', {
      version: 2,
      matter: { ...answer.matter, slug: 'moth-again' },
      body: answer.body,
    })
    expect(renamed.answer).toMatchObject({ slug: 'moth-again', version: 3 })
    expect([(await blog('/posts/moth-2')).to, (await read('moth-again')).answer.former]).toEqual([
      '/posts/moth-again',
      ['moth-2'],
    ])
    await api('POST', '/api/posts/change', {
      posts: [{ slug: 'moth-again', version: 3 }],
      change: { published: null },
    })
    expect((await blog('/posts/moth-again')).status).toBe(404)
    expect((await blog('/posts')).text).not.toContain('moth-again')
  })
  it('is not overwritten by an outdated version, or If-Match (RFC 9110 §13.1.1)', async () => {
    const { answer, etag } = await read('zip-surgery')
    const { matter, body, version } = answer
    const put = (extra: object, headers = {}) =>
      api('PUT', '/api/post?slug=zip-surgery', { matter, body, ...extra }, headers)
    expect((await put({})).status).toBe(428)
    expect((await put({}, { 'if-match': etag ?? '' })).etag).toBe(`"${version + 1}"`)
    expect((await put({}, { 'if-match': etag ?? '' })).status).toBe(412)
    const late = await put({ version })
    expect([late.status, late.answer['version'], late.answer['text']]).toEqual([409, version + 1, body])
  })
  it('gets its own slug if several are created concurrently with the same title', async () => {
    const made = await Promise.all(
      [1, 2, 3, 4].map(() =>
        api<{ slug: string }>('POST', '/api/posts', { matter: { title: 'All at once' }, body: '' }),
      ),
    )
    expect(new Set(made.map((one) => one.answer.slug))).toEqual(
      new Set(['all-at-once', 'all-at-once-2', 'all-at-once-3', 'all-at-once-4']),
    )
  })
  it.each([
    [{ title: 'x', slug: 'moth' }, '/slug', 'slug-taken'],
    [{ title: '!!!' }, '/slug', 'slug-not-derivable'],
    [{ title: 'x', published: 'soon' }, '/published', 'time-invalid'],
    [{ title: 'x', category: 'none' }, '/category', 'reference-unknown'],
    [{ title: 'x', tags: ['none'] }, '/tags/0', 'reference-unknown'],
  ])('is not created from %j, and the part is named', async (matter, path, code) => {
    const before = (await list('')).total
    const { status, answer } = await api<{ problems: { path?: string; code: string }[] }>(
      'POST',
      '/api/posts',
      { matter, body: '' },
    )
    expect([status, answer.problems[0]?.path, answer.problems[0]?.code]).toEqual([422, path, code])
    expect((await list('')).total).toBe(before)
  })
  it('is refused if it is too long or unknown', async () => {
    const long = await api('POST', '/api/posts', { matter: { title: 'x' }, body: 'x'.repeat(600_000) })
    expect(long.status).toBe(422)
    expect(
      (await api('POST', '/api/posts', { matter: { title: 'x' }, body: 'x'.repeat(10_000_000) })).status,
    ).toBe(413)
    expect((await read('no-such-post')).status).toBe(404)
    expect(
      (await api('PUT', '/api/post?slug=none', { version: 1, matter: { title: 'x' }, body: '' })).status,
    ).toBe(404)
  })
  it('is changed with several others, all or none, and every problem is reported', async () => {
    const good = await ref('brakes-that-howl')
    const posts = [good, { slug: 'moth', version: 999 }, { slug: 'none', version: 1 }]
    const change = { category: 'textiles' }
    const { status, answer } = await api('POST', '/api/posts/change', { posts, change })
    expect([status, (answer['problems'] as { code: string }[]).map((one) => one.code)]).toEqual([
      409,
      ['version-conflict', 'row-unknown'],
    ])
    expect(await ref('brakes-that-howl')).toEqual(good)
    const together = [good, await ref('moth')]
    const done = await api<ChangedPosts>('POST', '/api/posts/change', { posts: together, change })
    expect(done.answer.results.map((one) => [one.slug, one.version])).toEqual(
      together.map((one) => [one.slug, one.version + 1]),
    )
  })
})

describe('a deleted post', () => {
  it('is deleted with its comments, and restored byte for byte', async () => {
    const everything = async () =>
      await test.database.query(
        `SELECT to_jsonb(post) AS post, (SELECT jsonb_agg(comment ORDER BY id) FROM comment WHERE post_id = post.id) AS comments,
           (SELECT jsonb_agg(post_tag ORDER BY tag_id) FROM post_tag WHERE post_id = post.id) AS tags
         FROM post WHERE slug = 'the-toaster-inquest'`,
      )
    const before = await everything()
    const page = (await blog('/posts/the-toaster-inquest')).text
    const { answer } = await api<ChangedPosts>('POST', '/api/posts/delete', {
      posts: [await ref('the-toaster-inquest')],
    })
    const [result] = answer.results
    expect(result).toMatchObject({ deleted: expect.any(Number) as number })
    expect((await blog('/posts/the-toaster-inquest')).status).toBe(404)
    expect((await blog('/posts')).text).not.toContain('the-toaster-inquest')
    expect((await api<object[]>('GET', '/api/deleted?kind=post')).answer).toMatchObject([
      { id: result?.deleted, name: 'the-toaster-inquest' },
    ])
    expect((await api('POST', '/api/deleted/restore', { deleted: result?.deleted })).status).toBe(200)
    expect(await everything()).toEqual(before)
    const ids = (html: string) => withoutTokens(html)
    expect(ids((await blog('/posts/the-toaster-inquest')).text)).toBe(ids(page))
    expect((await api('POST', '/api/deleted/restore', { deleted: result?.deleted })).status).toBe(404)
  })
  it('is not deleted with an outdated version', async () => {
    const { version } = await ref('moth')
    const { status } = await api('POST', '/api/posts/delete', {
      posts: [await ref('zip-surgery'), { slug: 'moth', version: version + 1 }],
    })
    expect(status).toBe(409)
    expect((await blog('/posts/zip-surgery')).status).toBe(200)
    expect((await blog('/posts/moth')).status).toBe(200)
  })
  it('is restored without the category, author, image and tag that were deleted meanwhile', async () => {
    await api('POST', '/api/terms', { kind: 'category', name: 'Gone', slug: 'gone' })
    await api('POST', '/api/terms', { kind: 'author', name: 'Gone', slug: 'gone' })
    for (const slug of ['gone', 'kept']) await api('POST', '/api/terms', { kind: 'tag', name: slug, slug })
    const image = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="M1 1h7"/></svg>'
    await test.app.request(`http://${HOST}/api/image?file=gone.svg`, {
      method: 'PUT',
      headers: { host: HOST, authorization: `Bearer ${KEY}`, 'content-type': 'application/octet-stream' },
      body: image,
    })
    await api('POST', '/api/posts', {
      matter: {
        title: 'Orphan',
        slug: 'orphan',
        published: 'now',
        category: 'gone',
        author: 'gone',
        tags: ['gone', 'kept'],
        image: 'gone.svg',
      },
      body: 'Alone.',
    })
    const { answer } = await api<ChangedPosts>('POST', '/api/posts/delete', { posts: [await ref('orphan')] })
    for (const kind of ['category', 'author', 'tag'])
      expect((await api('POST', `/api/term/delete?kind=${kind}&slug=gone`, { version: 1 })).status).toBe(200)
    expect((await api('DELETE', '/api/image?name=gone.svg')).status).toBe(200)
    expect((await api('POST', '/api/deleted/restore', { deleted: answer.results[0]?.deleted })).status).toBe(
      200,
    )
    const [row] = await test.database.query(
      `SELECT category_id, author_id, image_id, (SELECT jsonb_agg(tag.slug) FROM post_tag JOIN tag ON tag.id = tag_id WHERE post_id = post.id) AS tags
       FROM post WHERE slug = 'orphan'`,
    )
    expect(row).toEqual({ category_id: null, author_id: null, image_id: null, tags: ['kept'] })
    expect((await blog('/posts/orphan')).status).toBe(200)
    await api('POST', '/api/posts/delete', { posts: [await ref('orphan')] })
  })
  it('is not restored while another post has its slug', async () => {
    const { answer } = await api<ChangedPosts>('POST', '/api/posts/delete', { posts: [await ref('moth')] })
    await api('POST', '/api/posts', { matter: { title: 'Another', slug: 'moth' }, body: '' })
    const deleted = answer.results[0]?.deleted
    const again = await api('POST', '/api/deleted/restore', { deleted })
    expect([again.status, again.answer['code']]).toEqual([409, 'restore-name-taken'])
    await api('POST', '/api/posts/delete', { posts: [await ref('moth')] })
    expect((await api('POST', '/api/deleted/restore', { deleted })).status).toBe(200)
  })
})

describe('a preview', () => {
  it('renders the page with the blog’s own template, and changes nothing', async () => {
    const { answer: post } = await read('zip-surgery')
    const rows = () => test.database.query('SELECT * FROM post ORDER BY id')
    const before = await rows()
    const { answer } = await api<{ status: number; html: string; path: string }>(
      'POST',
      '/api/post/preview',
      {
        slug: 'zip-surgery',
        matter: { ...post.matter, title: 'Never saved' },
        body: '**not** saved <script>alert(1)</script>',
      },
    )
    expect([answer.status, answer.path]).toEqual([200, '/posts/zip-surgery'])
    expect(answer.html).toContain('<strong>not</strong> saved')
    expect(answer.html).toContain('Never saved')
    expect(answer.html).not.toContain('alert(1)')
    expect(await rows()).toEqual(before)
    expect((await blog('/posts/zip-surgery')).text).not.toContain('Never saved')
  })
  it('works for a new post', async () => {
    const fresh = await api<{ html: string; wordCount: number }>('POST', '/api/post/preview', {
      slug: null,
      matter: { title: 'Not there yet' },
      body: 'one two three',
    })
    expect([fresh.answer.html.includes('Not published yet'), fresh.answer.wordCount]).toEqual([true, 3])
    const taken = await api('POST', '/api/post/preview', {
      slug: null,
      matter: { title: 'x', slug: 'moth' },
      body: '',
    })
    expect(taken.status).toBe(422)
  })
})

describe('the appearances of a post', () => {
  const appear = async (slug: string) =>
    (await api<{ isPublic: boolean; found: Appearance[] }>('GET', `/api/post/appearances?slug=${slug}`))
      .answer
  it('are pages that link to the post at the given position', async () => {
    const { posts } = await list('state=published&size=100')
    for (const { slug } of posts.slice(0, 12)) {
      const { isPublic, found } = await appear(slug)
      expect(isPublic).toBe(true)
      expect(found[0]).toMatchObject({ how: 'itself', path: `/posts/${slug}` })
      for (const { path, how, place } of found) {
        const page = await blog(path)
        expect([path, page.status]).toEqual([path, 200])
        if (how === 'itself') continue
        const links = [
          ...page.text.matchAll(/<(?:article|li><time)[\s\S]*?href="\/posts\/([a-z0-9-]+)"/g),
        ].map((one) => one[1])
        expect([path, links[place - 1]]).toEqual([path, slug])
      }
    }
  })
  it('are complete: the post is on no other page of the listing', async () => {
    const { posts } = await list('state=published&size=100')
    const pages = await Promise.all(
      ['', '?page=2', '?page=3', '?page=4', '?page=5', '?page=6', '?page=7'].map((page) =>
        blog(`/posts${page}`),
      ),
    )
    for (const { slug } of posts) {
      const { found } = await appear(slug)
      const named = found.find((one) => one.route === 'posts')?.page
      const shown = pages.flatMap((one, index) =>
        new RegExp(`<article[^>]*>(?:(?!</article>)[\\s\\S])*href="/posts/${slug}"`).test(one.text)
          ? [index + 1]
          : [],
      )
      expect([slug, shown]).toEqual([slug, [named]])
    }
  })
  it('of a draft are those after its publication, and it stays a draft', async () => {
    const { isPublic, found } = await appear('letter-to-a-new-volunteer')
    expect(isPublic).toBe(false)
    expect(found.map((one) => [one.route, one.place, one.page])).toEqual(
      expect.arrayContaining([
        ['post', 0, null],
        ['home', 1, null],
        ['posts', 1, 1],
      ]),
    )
    expect((await read('letter-to-a-new-volunteer')).answer.state).toBe('draft')
    expect((await blog('/posts/letter-to-a-new-volunteer')).status).toBe(404)
  })
})

it('a failing preview releases its connection', async () => {
  const pool = poolOf(test.blog.database)
  for (let times = 0; times < 15; times++)
    await api('POST', '/api/post/preview', { slug: null, matter: { title: 'x', category: 'none' }, body: '' })
  await expect.poll(() => pool.totalCount - pool.idleCount, { timeout: 30_000 }).toBe(0)
})
