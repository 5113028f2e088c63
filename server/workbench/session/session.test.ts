// What the workbench says of its blog.
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { Session } from '../../../contract/session.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => (test = await testWorkbench()))
afterAll(() => test.close())

const session = async () => (await test.api<Session>('GET', '/api/session')).answer

it('has the title, the origin for readers, and an address to walk first', async () => {
  expect(await session()).toEqual({
    title: 'Cobble Lane Repair Café',
    blog: 'http://127.0.0.1:4311',
    version: test.blog.site.version,
    start: '/posts?page=2',
  })
  expect((await test.read('/posts?page=2')).status).toBe(200)
})

it('has another version after a save, and another first address without a paged listing', async () => {
  const before = await session()
  const routes = await textOf(test.blog, 'routes.yaml')
  const query = await textOf(test.blog, 'queries/all-posts.yaml')
  await saveTexts(test.blog, {
    'queries/all-posts.yaml': query.replace(/take: pages\npages: .*\n/, 'take: first 3\n'),
  })
  const after = await session()
  expect(after.version).not.toBe(before.version)
  expect((await test.read(after.start)).status).toBe(200)
  expect(await textOf(test.blog, 'routes.yaml')).toBe(routes)
})
