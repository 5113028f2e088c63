// The operations of Routes and Checks, over the API: counts, trials, building, slugs, starting points, mends.
import { RULES } from '../../../core/checks/rules/all.ts'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { loadDocuments } from '../../publish/documents.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'
import { blogListener } from '../../reader/listener.ts'
import type { RouteSummary, SlugAnswer, StartingPoint, Trial } from '../../../contract/operations.ts'

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
})
afterAll(() => test.close())

const api: TestWorkbench['api'] = (...words) => test.api(...words)
const blogStatus = async (path: string) => (await test.read(path)).status

it('routes say what they answer with, and how many addresses each has', async () => {
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
    ['month', 14],
    ['search', 1],
    ['page', 8],
  ])
  expect(answer[1]?.queries[0]).toEqual({
    name: 'all-posts',
    sentence: 'published posts, newest first, 6 a page',
    paged: true,
  })
  const { answer: list } = await api<{ addresses: unknown[]; total: number }>(
    'GET',
    '/api/routes/addresses?route=post',
  )
  expect([list.addresses.length, list.total]).toEqual([41, 41])
  expect((await api('GET', '/api/routes/addresses?route=nothing')).status).toBe(404)
})

it('addresses are tried, each with its outcome and reason', async () => {
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
  const { answer } = await api<Trial[]>('POST', '/api/routes/try', { addresses })
  expect(answer.map((one) => [one.outcome, one.status, one.reason, one.to])).toEqual([
    ['answered', 200, 'slug = zip-surgery', null],
    ['redirect', 308, 'in lower-case letters', '/posts/zip-surgery'],
    ['redirect', 308, 'without the trailing slash', '/posts/zip-surgery'],
    ['not-found', 404, 'there is no page whose path is “post/zip-surgery”', '/posts/zip-surgery'],
    ['not-found', 404, 'there is no post whose slug is “no-such-post”', '/posts'],
    ['redirect', 308, 'in lower-case letters', '/posts/not_a_slug!'],
    ['not-found', 404, expect.stringContaining('past the end'), '/posts'],
    ['refused', 400, '“%zz” is not a percent-encoding', null],
    ['answered', 200, 'page = about', null],
    ['answered', 200, 'route “home”', null],
  ])
})

it('addresses are built, or it is said why not', async () => {
  const build = async (route: string, parameters: Record<string, string>) =>
    (await api('POST', '/api/routes/build', { route, parameters })).answer
  expect(await build('post', { slug: 'a-b' })).toEqual({
    path: '/posts/a-b',
    message: null,
    template: '{{ "post" | url: slug: … }}',
  })
  expect(await build('post', { slug: 'A b' })).toMatchObject({
    path: null,
    message: '“A b” is not lower-case letters, digits and single hyphens',
  })
  expect(await build('post', {})).toMatchObject({ message: 'route “post” needs “slug”, which is missing' })
  expect(await build('home', {})).toMatchObject({ path: '/', template: '{{ "home" | url }}' })
})

it('what was asked for in vain is listed with what was meant, and forgotten', async () => {
  const blog = blogListener(test.blog)
  for (let times = 0; times < 2; times++) await blog.request('http://b/post/zip-surgery')
  const { answer } = await api<object[]>('GET', '/api/unanswered')
  expect(answer).toMatchObject([
    { path: '/post/zip-surgery', times: 2, nearest: { path: '/posts/zip-surgery' } },
  ])
  // What answers since is left out by itself.
  await blog.request('http://b/posts/the-moth-again')
  expect((await api<object[]>('GET', '/api/unanswered')).answer).toHaveLength(2)
  await api('PUT', '/api/slug', { kind: 'post', from: 'moth', to: 'the-moth-again' })
  expect((await api<object[]>('GET', '/api/unanswered')).answer).toHaveLength(1)
  await api('PUT', '/api/slug', { kind: 'post', from: 'the-moth-again', to: 'moth' })
  await api('DELETE', `/api/unanswered?path=${encodeURIComponent('/post/zip-surgery')}`)
  expect((await api<object[]>('GET', '/api/unanswered')).answer).toEqual([])
})

describe('slugs', () => {
  it('are judged while they are typed', async () => {
    const judge = async (query: string) => (await api<SlugAnswer>('GET', `/api/slug?${query}`)).answer
    expect(await judge('kind=post&from=title&text=Zip%20Surgery')).toEqual({
      slug: 'zip-surgery',
      free: false,
      note: 'the post “Zip surgery without replacing the zip” has this slug',
      suggestion: 'zip-surgery-2',
      address: '/posts/zip-surgery',
    })
    expect(await judge('kind=category&text=clocks')).toMatchObject({
      free: true,
      address: '/category/clocks',
    })
    expect(await judge('kind=tag&text=anything')).toMatchObject({ free: true, address: '/tag/anything' })
    expect((await api('GET', '/api/slug?kind=nothing&text=x')).status).toBe(400)
  })
  it('are changed, and old addresses lead on', async () => {
    expect(
      (await api('PUT', '/api/slug', { kind: 'category', from: 'textiles', to: 'cloth' })).answer,
    ).toEqual({
      current: 'cloth',
      address: '/category/cloth',
      former: ['textiles'],
      note: null,
    })
    // A page may have the path, but a route above takes the address: said, not refused.
    const moved = await api('PUT', '/api/slug', { kind: 'page', from: 'tool-library', to: 'posts' })
    expect(moved.answer['note']).toBe('/posts is answered by route “posts”, so readers will not see it there')
    await api('PUT', '/api/slug', { kind: 'page', from: 'posts', to: 'tool-library' })
    expect(await blogStatus('/category/textiles')).toBe(301)
    expect((await api('PUT', '/api/slug', { kind: 'category', from: 'cloth', to: 'a/b' })).status).toBe(422)
    expect((await api('PUT', '/api/slug', { kind: 'category', from: 'nothing', to: 'b' })).status).toBe(404)
  })
})

describe('starting points', () => {
  const make = (kind: string, name: string, path: string) =>
    api<StartingPoint>('POST', '/api/starting-point', { kind, name, path })
  const apply = async ({ changes }: StartingPoint) =>
    await api('PUT', '/api/documents', {
      changes: changes.map(({ document, text, version }) => ({ path: document, text, version })),
    })

  it.each([
    ['listing', 'everything', '/everything', '/everything?page=2', 200],
    ['single', 'story', '/stories', '/stories/zip-surgery', 200],
    ['single', 'story-two', '/tales', '/tales/letter-to-a-new-volunteer', 404],
    ['category', 'about-category', '/about-category', '/about-category/bicycles', 200],
    ['page', 'handbook', '/handbook', '/handbook/about/people', 200],
    ['month', 'by-month', '/by-month', null, 200],
    ['month', 'by-month-two', '/by-month-two', '/by-month-two/1999/1', 404],
  ])('%s: made whole, shown first, and answered once applied', async (kind, name, path, address, status) => {
    const before = await loadDocuments(test.database)
    const { answer } = await make(kind, name, path)
    expect(await loadDocuments(test.database)).toEqual(before)
    expect(answer.changes.map((one) => one.document)).toContain(`templates/pages/${name}.liquid`)
    expect((await apply(answer)).status).toBe(200)
    const [row] = await test.database.query<{ at: string }[]>(
      "SELECT to_char(published_at AT TIME ZONE 'Europe/London', 'YYYY/FMMM') AS at FROM post WHERE published_at <= now() ORDER BY published_at DESC LIMIT 1",
    )
    expect(await blogStatus(address ?? `/by-month/${row?.at ?? ''}`)).toBe(status)
  })
  it('the month archive has an address for each month with posts, by the blog’s own clock', async () => {
    const { answer } = await api<{ addresses: { path: string }[]; total: number }>(
      'GET',
      '/api/routes/addresses?route=by-month',
    )
    const months = await test.database.query<{ at: string }[]>(
      "SELECT DISTINCT to_char(published_at AT TIME ZONE 'Europe/London', 'YYYY/FMMM') AS at FROM post WHERE published_at <= now()",
    )
    expect(answer.total).toBe(months.length)
    expect(new Set(answer.addresses.map((one) => one.path))).toEqual(
      new Set(months.map((one) => `/by-month/${one.at}`)),
    )
    for (const { path } of answer.addresses) expect(await blogStatus(path)).toBe(200)
  })
  it('a redirect needs no more than the route', async () => {
    const { answer } = await api<StartingPoint>('POST', '/api/starting-point', {
      kind: 'redirect',
      name: 'journal-moved',
      path: '/journal',
      to: '/posts',
    })
    expect(answer.changes.map((one) => one.document)).toEqual(['routes.yaml'])
    expect((await apply(answer)).status).toBe(200)
    const response = await blogListener(test.blog).request('http://b/journal?page=2')
    expect([response.status, response.headers.get('location')]).toEqual([301, '/posts?page=2'])
  })
  it('is refused where something stands already', async () => {
    expect((await make('listing', 'posts', '/x')).answer).toMatchObject({
      status: 422,
      detail: expect.stringContaining('route “posts” already') as string,
    })
    expect((await make('listing', 'all-posts', '/x')).answer).toMatchObject({
      detail: expect.stringContaining('queries/all-posts.yaml') as string,
    })
  })
  it('several documents are saved together, or none', async () => {
    const before = await loadDocuments(test.database)
    const { status, answer } = await api('PUT', '/api/documents', {
      changes: [
        { path: 'queries/fresh.yaml', text: 'from: posts\ntake: all\n', version: 0 },
        { path: 'templates/pages/fresh.liquid', text: '{% nonsense %}', version: 0 },
      ],
    })
    expect([status, answer['problems']]).toMatchObject([
      422,
      [{ file: 'templates/pages/fresh.liquid', line: 1 }],
    ])
    expect(
      (await api('PUT', '/api/documents', { changes: [{ path: 'routes.yaml', text: '[]', version: 1 }] }))
        .status,
    ).toBe(409)
    expect(await loadDocuments(test.database)).toEqual(before)
  })
  it('and taken out together with what names them, or not at all', async () => {
    const before = await loadDocuments(test.database)
    const { answer } = await make('listing', 'short-lived', '/short-lived')
    const saved = (await apply(answer)).answer['versions'] as Record<string, number>
    const out = (paths: string[]) =>
      api('PUT', '/api/documents', {
        changes: paths.map((path) => ({ path, text: before.get(path) ?? null, version: saved[path] ?? 0 })),
      })
    expect((await out(['queries/short-lived.yaml'])).status).toBe(422)
    const all = await out(Object.keys(saved))
    expect([all.status, all.answer['versions']]).toEqual([
      200,
      { 'routes.yaml': expect.any(Number) as number },
    ])
    expect(await loadDocuments(test.database)).toEqual(before)
    expect((await out(Object.keys(saved))).status).toBe(409)
  })
})

describe('checks', () => {
  it('are run, their findings set aside with a reason, and taken up again', async () => {
    const { answer } = await api<{
      findings: { rule: string; subject: string; aside: unknown }[]
      failed: unknown[]
      rules: unknown[]
    }>('POST', '/api/checks/run')
    expect([answer.failed, answer.rules.length]).toEqual([[], RULES.length])
    const [first] = answer.findings
    if (!first) throw new Error('nothing found: the starting points above share addresses')
    const named = { rule: first.rule, subject: first.subject }
    await api('PUT', '/api/checks/aside', { ...named, reason: 'made by the tests' })
    const after = await api<typeof answer>('GET', '/api/checks')
    expect(after.answer.findings[0]).toMatchObject({ ...named, aside: { reason: 'made by the tests' } })
    await api('DELETE', `/api/checks/aside?${new URLSearchParams(named).toString()}`)
    expect((await api<typeof answer>('GET', '/api/checks')).answer.findings[0]?.aside).toBeNull()
  })
})
