// The Routes area over the API: addresses, tests of addresses, slugs and drafts of routes.
import { blank } from '../../../core/testing/demo.ts'
import { COMMENT_RULES, runRulesOf } from '../../testing/checks.ts'
import { saveTexts } from '../../testing/edits.ts'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { loadDocuments } from '../../publish/documents.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import { blogListener } from '../../reader/listener.ts'
import type { AddressTest, RouteDraft, RouteSummary } from '../../../contract/routes.ts'
import type { SlugAnswer } from '../../../contract/slugs.ts'

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
})
afterAll(() => test.close())

const api: TestWorkbench['api'] = (...words) => test.api(...words)
const blogStatus = async (path: string) => (await test.read(path)).status

/** Months with posts. The posts of the demo are so many days old: what a month has depends on today. */
const monthsWithPosts = () =>
  test.database.query<{ at: string; posts: number }[]>(
    `SELECT to_char(published_at AT TIME ZONE 'Europe/London', 'YYYY/FMMM') AS at, count(*)::int AS posts
      FROM post WHERE published_at <= now() GROUP BY 1`,
  )

it('routes are listed with their queries, and the number of their addresses', async () => {
  // Pages of six posts.
  const pagesOfMonths = (await monthsWithPosts()).reduce((sum, one) => sum + Math.ceil(one.posts / 6), 0)
  const { answer } = await api<RouteSummary[]>('GET', '/api/routes')
  expect(answer.map((one) => [one.name, one.addresses])).toEqual([
    ['home', 1],
    ['posts', 7],
    ['post', 41],
    ['add-comment', null],
    ['category', 10],
    ['tag', 22],
    ['author', 10],
    ['archive', 1],
    ['month', pagesOfMonths],
    ['search', 1],
    ['feed', 1],
    ['category-feed', 10],
    ['sitemap', 1],
    ['robots', 1],
    ['post-preview', 41],
    ['page', 8],
  ])
  expect(answer[1]?.queries[0]).toMatchObject({ name: 'all-posts', pagesBy: 'number' })
  expect(answer.find((one) => one.name === 'archive')?.queries[0]).toMatchObject({ pagesBy: 'cursor' })
  expect(answer.map((one) => one.rows)).toEqual([
    null,
    null,
    'post',
    'post',
    'category',
    'tag',
    'author',
    null,
    null,
    null,
    null,
    'category',
    null,
    null,
    'post',
    'page',
  ])
  const { answer: list } = await api<{ addresses: unknown[]; total: number }>(
    'GET',
    '/api/routes/addresses?route=post',
  )
  expect([list.addresses.length, list.total]).toEqual([41, 41])
  expect((await api('GET', '/api/routes/addresses?route=nothing')).status).toBe(404)
})

it('addresses are tested, each with its outcome and reason', async () => {
  const addresses = [
    '/posts/zip-surgery',
    '/posts/Zip-Surgery',
    'https://cobblelane.test/posts/zip-surgery/#comments',
    '/post/zip-surgery',
    '/posts/no-such-post',
    '/posts/Not_A_Slug!',
    '/posts?page=999',
    '/%zz',
    'about',
    '',
  ]
  const { answer } = await api<AddressTest[]>('POST', '/api/routes/test', { addresses })
  const about = (text: string) => expect.stringContaining(text) as string
  expect(answer.map((one) => [one.outcome, one.status, one.reason, one.to])).toEqual([
    ['answered', 200, about('zip-surgery'), null],
    ['redirect', 308, about('lower case'), '/posts/zip-surgery'],
    ['redirect', 308, about('trailing slash'), '/posts/zip-surgery'],
    ['not-found', 404, about('“post/zip-surgery”'), '/posts/zip-surgery'],
    ['not-found', 404, about('“no-such-post”'), '/posts'],
    ['redirect', 308, about('lower case'), '/posts/not_a_slug!'],
    ['not-found', 404, about('beyond the last'), '/posts'],
    ['refused', 400, about('“%zz”'), null],
    ['answered', 200, about('about'), null],
    ['answered', 200, about('home'), null],
  ])
})

it('addresses are built, or refused with a reason', async () => {
  const build = async (route: string, parameters: Record<string, string>) =>
    (await api('POST', '/api/routes/build', { route, parameters })).answer
  expect(await build('post', { slug: 'a-b' })).toEqual({
    path: '/posts/a-b',
    message: null,
    template: '{{ "post" | url: slug: … }}',
  })
  expect(await build('post', { slug: 'A b' })).toMatchObject({
    path: null,
    message: expect.stringContaining('“A b”') as string,
  })
  expect(await build('post', {})).toMatchObject({
    path: null,
    message: expect.stringContaining('“slug”') as string,
  })
  expect(await build('home', {})).toMatchObject({ path: '/', template: '{{ "home" | url }}' })
})

it('addresses that answer 404 are listed with the most similar one, and can be deleted', async () => {
  const blog = blogListener(test.blog)
  for (let times = 0; times < 2; times++) await blog.request('http://b/post/zip-surgery')
  const { answer } = await api<object[]>('GET', '/api/not-found')
  expect(answer).toMatchObject([
    { path: '/post/zip-surgery', times: 2, nearest: { path: '/posts/zip-surgery' } },
  ])
  // Addresses that are answered by now are left out.
  await blog.request('http://b/posts/the-moth-again')
  expect((await api<object[]>('GET', '/api/not-found')).answer).toHaveLength(2)
  await api('PUT', '/api/slug', { kind: 'post', from: 'moth', to: 'the-moth-again' })
  expect((await api<object[]>('GET', '/api/not-found')).answer).toHaveLength(1)
  await api('PUT', '/api/slug', { kind: 'post', from: 'the-moth-again', to: 'moth' })
  await api('DELETE', `/api/not-found?path=${encodeURIComponent('/post/zip-surgery')}`)
  expect((await api<object[]>('GET', '/api/not-found')).answer).toEqual([])
})

describe('slugs', () => {
  it('are checked while they are typed', async () => {
    const check = async (query: string) => (await api<SlugAnswer>('GET', `/api/slug?${query}`)).answer
    expect(await check('kind=post&from=title&text=Zip%20Surgery')).toEqual({
      slug: 'zip-surgery',
      free: false,
      note: expect.stringContaining('“Zip surgery without replacing the zip”') as string,
      suggestion: 'zip-surgery-2',
      address: '/posts/zip-surgery',
    })
    expect(await check('kind=category&text=clocks')).toMatchObject({
      free: true,
      address: '/category/clocks',
    })
    expect(await check('kind=tag&text=anything')).toMatchObject({ free: true, address: '/tag/anything' })
    expect((await api('GET', '/api/slug?kind=nothing&text=x')).status).toBe(400)
  })
  it('are changed, and former addresses redirect', async () => {
    expect(
      (await api('PUT', '/api/slug', { kind: 'category', from: 'textiles', to: 'cloth' })).answer,
    ).toMatchObject({
      current: 'cloth',
      address: '/category/cloth',
      former: ['textiles'],
      note: null,
    })
    // A page may have a path whose address another route answers. It is noted, not refused.
    const moved = await api('PUT', '/api/slug', { kind: 'page', from: 'tool-library', to: 'posts' })
    expect(moved.answer['note']).toMatch(/“posts”.*\/posts/)
    await api('PUT', '/api/slug', { kind: 'page', from: 'posts', to: 'tool-library' })
    expect(await blogStatus('/category/textiles')).toBe(301)
    expect((await api('PUT', '/api/slug', { kind: 'category', from: 'cloth', to: 'a/b' })).status).toBe(422)
    expect((await api('PUT', '/api/slug', { kind: 'category', from: 'nothing', to: 'b' })).status).toBe(404)
  })
})

describe('drafts of routes', () => {
  const draft = (kind: string, name: string, path: string) =>
    api<RouteDraft>('POST', '/api/routes/draft', { kind, name, path })
  const apply = async ({ steps }: RouteDraft) => await api('POST', '/api/changes', { steps })
  const documentsOf = ({ steps }: RouteDraft) =>
    steps.map((step) => (step.do === 'save-document' ? step.document : step.do))

  it.each([
    ['listing', 'everything', '/everything', '/everything?page=2', 200],
    ['single', 'story', '/stories', '/stories/zip-surgery', 200],
    ['single', 'story-two', '/tales', '/tales/letter-to-a-new-volunteer', 404],
    ['category', 'about-category', '/about-category', '/about-category/bicycles', 200],
    ['page', 'handbook', '/handbook', '/handbook/about/people', 200],
    ['month', 'by-month', '/by-month', null, 200],
    ['month', 'by-month-two', '/by-month-two', '/by-month-two/1999/1', 404],
  ])(
    '%s: drafted completely without a change, and answered once applied',
    async (kind, name, path, address, status) => {
      const before = await loadDocuments(test.database)
      const { answer } = await draft(kind, name, path)
      expect(await loadDocuments(test.database)).toEqual(before)
      expect(documentsOf(answer)).toContain(`templates/pages/${name}.liquid`)
      expect((await apply(answer)).status).toBe(200)
      const [row] = await test.database.query<{ at: string }[]>(
        "SELECT to_char(published_at AT TIME ZONE 'Europe/London', 'YYYY/FMMM') AS at FROM post WHERE published_at <= now() ORDER BY published_at DESC LIMIT 1",
      )
      expect(await blogStatus(address ?? `/by-month/${row?.at ?? ''}`)).toBe(status)
    },
  )
  it('the month archive has an address for each month with posts, in the blog’s time zone', async () => {
    const { answer } = await api<{ addresses: { path: string }[]; total: number }>(
      'GET',
      '/api/routes/addresses?route=by-month',
    )
    const months = await monthsWithPosts()
    expect(answer.total).toBe(months.length)
    expect(new Set(answer.addresses.map((one) => one.path))).toEqual(
      new Set(months.map((one) => `/by-month/${one.at}`)),
    )
    for (const { path } of answer.addresses) expect(await blogStatus(path)).toBe(200)
  })
  it('a redirect needs only the route', async () => {
    const { answer } = await api<RouteDraft>('POST', '/api/routes/draft', {
      kind: 'redirect',
      name: 'journal-moved',
      path: '/journal',
      to: '/posts',
    })
    expect(documentsOf(answer)).toEqual(['routes.yaml'])
    expect((await apply(answer)).status).toBe(200)
    const response = await blogListener(test.blog).request('http://b/journal?page=2')
    expect([response.status, response.headers.get('location')]).toEqual([301, '/posts?page=2'])
  })
  it('are refused if a name is taken', async () => {
    expect((await draft('listing', 'posts', '/x')).answer).toMatchObject({
      status: 422,
      code: 'starting-point-name-taken',
    })
    expect((await draft('listing', 'all-posts', '/x')).answer).toMatchObject({
      status: 422,
      code: 'starting-point-document-taken',
    })
  })
})

it('comments on a post: a new blog with the draft accepts, holds back and shows comments, without a finding', async () => {
  const fresh = await testWorkbench()
  try {
    const documents = await loadDocuments(fresh.database)
    const removed = Object.fromEntries([...documents.keys()].map((one) => [one, null]))
    const saved = await saveTexts(fresh.blog, { ...removed, ...Object.fromEntries(blank) })
    expect(saved.ok ? [] : saved.problems).toEqual([])
    const at = async (kind: string, name: string, path: string) => {
      const { answer } = await fresh.api<RouteDraft>('POST', '/api/routes/draft', { kind, name, path })
      const applied = await fresh.api('POST', '/api/changes', { steps: answer.steps })
      expect(applied.status, JSON.stringify(applied.answer)).toBe(200)
    }
    await at('single', 'story', '/story')
    expect((await fresh.api<string[]>('GET', '/api/routes/commentable')).answer).toEqual(['/story/:slug'])
    await at('comments', 'say', '/story/:slug')
    expect((await fresh.api<string[]>('GET', '/api/routes/commentable')).answer).toEqual([])
    expect((await fresh.read('/story/moth')).text).toContain('Add a comment')
    const { findings, proven } = await runRulesOf(fresh.blog, COMMENT_RULES)
    expect(findings).toEqual([])
    expect(proven).toHaveLength(COMMENT_RULES.length)
  } finally {
    await fresh.close()
  }
})
