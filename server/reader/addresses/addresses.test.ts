// Existing addresses, similar ones, and requests that were answered with 404.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { answer } from '../answer.ts'
import { blogListener } from '../listener.ts'
import { internalRequest } from '../request.ts'
import { nearestAddresses } from './nearest.ts'
import { addressesOf, everyAddress, listingPages } from './real-addresses.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const route = (name: string) => {
  const found = test.blog.site.definition.routes.find((one) => one.route.name === name)
  if (!found) throw new Error(`no route ${name}`)
  return found
}
const all = async (name: string, hidden = false) => {
  const paths: string[] = []
  for await (const one of everyAddress(test.blog, test.blog.site, route(name), { hidden }))
    paths.push(one.path)
  return paths
}
const get = (target: string) => answer(test.blog, internalRequest(target))

describe('existing addresses', () => {
  it.each([
    ['home', 1],
    ['posts', 1],
    ['post', 41],
    ['category', 7],
    ['page', 8],
  ])('of route %s are %i, and each is answered', async (name, count) => {
    const paths = await all(name)
    expect(paths).toHaveLength(count)
    for (const path of paths) expect((await get(path)).status, path).toBe(200)
  })
  it('that are hidden are those of drafts and scheduled posts, and none is answered', async () => {
    const paths = await all('post', true)
    expect(paths).toHaveLength(7)
    for (const path of paths) expect((await get(path)).status, path).toBe(404)
    expect(await all('category', true)).toEqual([])
  })
  it('are paged', async () => {
    const found = await addressesOf(test.blog, test.blog.site, route('post'), { page: 3, size: 20 })
    expect([found?.addresses.length, found?.total]).toEqual([1, 41])
  })
  it('of listings have pages', async () => {
    expect(await listingPages(test.blog, test.blog.site, route('posts'), {})).toEqual([
      { parameter: 'page', pages: 7 },
    ])
    expect(
      await listingPages(test.blog, test.blog.site, route('category'), { category: 'electrical' }),
    ).toEqual([{ parameter: 'page', pages: 2 }])
  })
})

describe('the most similar address', () => {
  const nearest = async (path: string) =>
    (await nearestAddresses(test.blog, test.blog.site, path)).map((one) => one.path)
  it.each([
    ['/post/zip-surgery', '/posts/zip-surgery'],
    ['/posts/zip-surgry', '/posts/zip-surgery'],
    ['/posts/the-toaster-inqest', '/posts/the-toaster-inquest'],
    ['/categories/bicycles', '/category/bicycles'],
    ['/house-rules', '/open-days/house-rules'],
    ['/about-us', '/about'],
    ['/pots', '/posts'],
  ])('to %s is %s', async (path, expected) => {
    expect((await nearest(path))[0]).toBe(expected)
  })
  it.each(['/wp-login.php', '/zzzzzzzzzz', `/${'x'.repeat(5_000)}`, '/%E9%9B%A8', '/a%00b'])(
    'to %s is none',
    async (path) => {
      expect(await nearest(path)).toEqual([])
    },
  )
  it('is on the page for 404 with its title, and is never that of a draft', async () => {
    const { status, body } = await get('/posts/zip-surgry')
    expect([
      status,
      body.includes('<a href="/posts/zip-surgery">Zip surgery without replacing the zip</a>'),
    ]).toEqual([404, true])
    expect((await get('/posts/letter-to-a-new-voluntee')).body).not.toContain('letter-to-a-new-volunteer')
  })
})

it('addresses that answer 404 are counted without their query strings, also across batches', async () => {
  const app = blogListener(test.blog)
  const ask = (target: string, method = 'GET') => app.request(`http://b.test${target}`, { method })
  for (const target of ['/post/a?secret=1', '/post/a?secret=2', '/feed', '/posts']) await ask(target)
  await ask('/feed', 'HEAD')
  expect(await test.blog.notFound.list(10)).toMatchObject([
    { path: '/post/a', times: 2 },
    { path: '/feed', times: 1 },
  ])
  await ask('/post/a')
  expect((await test.blog.notFound.list(1))[0]).toMatchObject({ path: '/post/a', times: 3 })
  await test.blog.notFound.delete('/post/a')
  expect((await test.blog.notFound.list(10)).map((one) => one.path)).toEqual(['/feed'])
})

it('the address policy and redirect routes of the definition are applied', async () => {
  const save = async (path: string, change: (text: string) => string) =>
    await saveTexts(test.blog, { [path]: change(await textOf(test.blog, path)) })
  expect(
    await save('routes.yaml', (text) =>
      text.replace(
        '- name: home',
        '- name: old-post\n  path: /journal/:slug\n  params: { slug: slug }\n  redirect: { to: /posts/:slug }\n\n- name: home',
      ),
    ),
  ).toMatchObject({ ok: true })
  const { status, headers } = await get('/journal/zip-surgery?from=mail')
  expect([status, headers['location']]).toEqual([301, '/posts/zip-surgery?from=mail'])

  expect(
    await save('blog.yaml', (text) => text.replace('trailing-slash: without', 'trailing-slash: with')),
  ).toMatchObject({ ok: true })
  expect((await get('/posts')).headers['location']).toBe('/posts/')
  const { body } = await get('/posts/?page=2')
  expect([
    body.includes('href="/posts/zip-surgery/"'),
    body.includes('href="/posts/?page=3"'),
    body.includes('href="/category/bicycles/"'),
  ]).toEqual([true, true, true])
  expect((await get('/journal/zip-surgery/')).headers['location']).toBe('/posts/zip-surgery/')
  expect(
    await save('routes.yaml', (text) => text.replace('to: /posts/:slug', 'to: /posts/:slg')),
  ).toMatchObject({
    ok: false,
    problems: [{ path: '/0/redirect/to', code: 'route-redirect-parameter-unknown' }],
  })
})
