// The addresses that stand for all others are those that a list of all addresses would give, without reading it.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { sampleOf } from '../../../core/checks/sample.ts'
import { everyAddress } from '../../reader/addresses/real-addresses.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { addressesOfPages } from './rendered-now.ts'

let test: TestBlog
beforeAll(async () => (test = await testBlog()))
afterAll(() => test.close())

it.each([
  { newest: 3, oldest: 2, between: 4 },
  { newest: 7, oldest: 0, between: 0 },
  { newest: 1, oldest: 1, between: 1 },
  { newest: 500, oldest: 10, between: 10 },
])('%j: the newest, the oldest and some between, and how many there are', async (ofEach) => {
  const { blog } = test
  const expected: string[] = []
  let all = 0
  for (const compiled of blog.site.definition.routes) {
    if (compiled.route.template === undefined) continue
    const paths: string[] = []
    for await (const { path } of everyAddress(blog, blog.site, compiled)) paths.push(path)
    all += paths.length
    expected.push(...sampleOf(paths, ofEach))
  }
  expect(await addressesOfPages(blog, ofEach)).toEqual({ addresses: expected, total: all })
})
