// Purged pages that readers want are rendered again before the next reader asks.
import type { Hono } from 'hono'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { editPost } from '../../testing/edits.ts'
import { blogListener } from '../listener.ts'
import { Renewals } from './renewals.ts'

let test: TestBlog
let app: Hono
beforeAll(async () => {
  test = await testBlog()
  app = blogListener(test.blog)
})
afterAll(() => test.close())

const dropped = (target: string, uses: number) => ({ key: target, name: 'page', why: 'test', target, uses })

it('renders the most wanted first, each once, and not what is hardly wanted', async () => {
  const rendered: string[] = []
  const renewals = new Renewals((target) => Promise.resolve(rendered.push(target)))
  renewals.add([dropped('/a', 3), dropped('/b', 9), dropped('/rare', 1)])
  renewals.add([dropped('/c', 5), dropped('/a', 3), { key: 'f', name: 'fragment', why: 'test' }])
  await renewals.finished()
  expect(rendered).toEqual(['/b', '/c', '/a'])
  renewals.add([dropped('/d', 2)])
  await renewals.stop()
  expect(rendered).toEqual(['/b', '/c', '/a'])
})

it('goes on after a page that fails', async () => {
  const rendered: string[] = []
  const renewals = new Renewals((target) => {
    rendered.push(target)
    return target === '/bad' ? Promise.reject(new Error('no')) : Promise.resolve()
  })
  renewals.add([dropped('/bad', 9), dropped('/good', 3)])
  await renewals.finished()
  expect(rendered).toEqual(['/bad', '/good'])
})

it('a reader after an edit gets a copy that shows it', async () => {
  const stop = test.blog.keepRenewed()
  const get = async (path: string) => {
    const response = await app.request(`http://b.test${path}`)
    return { status: response.headers.get('cache-status') ?? '', body: await response.text() }
  }
  for (const path of ['/posts', '/posts', '/posts', '/archive']) await get(path)
  const saved = await editPost(test.blog, 'truing-a-wheel-with-two-spoons', (text) =>
    text.replace(/^title: .*$/m, 'title: Trued again'),
  )
  expect(saved.ok).toBe(true)
  const isStored = (key: string) => [...test.blog.fragments.entries()].some(([one]) => one.startsWith(key))
  await expect.poll(() => isStored('page posts /posts ')).toBe(true)
  const listing = await get('/posts')
  expect(listing.status).toContain('hit')
  expect(listing.body).toContain('Trued again')
  await stop()
  // Nobody asked for it a second time.
  expect(isStored('page archive /archive ')).toBe(false)
})
