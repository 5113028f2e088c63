// Queries fetch only what templates read: every page of the demo is byte for byte the same as with all fields.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { withoutTokens } from '../testing/comments.ts'
import { answer } from './answer.ts'
import { Blog } from './blog.ts'
import { everyAddress } from './addresses/real-addresses.ts'
import { internalRequest } from './request.ts'
import { Walk } from './walk/walk.ts'

let test: TestBlog
let everything: Blog
beforeAll(async () => {
  test = await testBlog({ fragments: 'off' })
  const { database, blog } = test
  everything = new Blog({
    database,
    site: { ...blog.site, reading: new Map() },
    log: blog.log,
    fragments: 'off',
    cursorKey: blog.cursorKey,
  })
})
afterAll(() => test.close())

const walk = async (blog: Blog, target: string) => {
  // The id is on pages with a form.
  const request = internalRequest(target, { id: 'the-same' })
  const record = new Walk(request, new Date(), blog.site.version)
  const { body } = await answer(blog, request, record)
  return { body, runs: record.record.queries.runs }
}

it('every page of the demo is the same', async () => {
  const targets = [
    '/posts?page=3',
    '/search?q=wheel',
    '/category/electrical?page=2',
    '/nothing-here',
    '/archive',
  ]
  for (const compiled of test.blog.site.definition.routes)
    if (compiled.method === 'GET')
      for await (const { path } of everyAddress(test.blog, test.blog.site, compiled, { limit: 50 }))
        targets.push(path)
  expect(targets.length).toBeGreaterThan(90)
  for (const target of targets) {
    const [some, all] = [await walk(test.blog, target), await walk(everything, target)]
    expect(withoutTokens(some.body), target).toBe(withoutTokens(all.body))
    expect(some.runs.map((one) => one.rows)).toEqual(all.runs.map((one) => one.rows))
  }
})

it('columns, counts, joins and lists of related rows that no template reads are not fetched', async () => {
  const sqlOf = async (blog: Blog, target: string, data: string) =>
    (await walk(blog, target)).runs.find((one) => one.data === data)?.statements.map((one) => one.sql) ?? []
  const [cards = ''] = await sqlOf(test.blog, '/posts', 'posts')
  for (const used of ['excerpt', 'category', 'author', 'comment_tally tally']) expect(cards).toContain(used)
  for (const unused of ['word_count', 'comments_open', '"about"', 'html']) expect(cards).not.toContain(unused)
  const [dates = ''] = await sqlOf(test.blog, '/archive', 'posts')
  expect(dates).not.toMatch(/excerpt|word_count|updated_at/)
  // The post's page prints its tags; the search page prints neither tags nor comments.
  expect(await sqlOf(test.blog, '/posts/moth', 'post')).toHaveLength(2)
  expect((await sqlOf(test.blog, '/search?q=zip', 'posts'))[0]).not.toContain('comment_tally')
})

it('the walk names the lines that read each field', async () => {
  const { runs } = await walk(test.blog, '/posts')
  const read = runs.find((one) => one.data === 'posts')?.read ?? []
  const places = (field: string) => read.find((one) => one.field === field)?.places ?? []
  expect(places('excerpt')).toEqual([{ document: 'templates/partials/card.liquid', line: 7 }])
  expect(places('category.name').map((one) => one.document)).toEqual(['templates/partials/card.liquid'])
  expect(read.some((one) => one.field === 'wordCount')).toBe(false)
})
