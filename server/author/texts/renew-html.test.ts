// After an update of the pipeline, stored HTML is made anew, and what readers see with it.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { blogListener } from '../../reader/listener.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { renewHtml } from './renew-html.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const blog = async (path: string) =>
  await (await blogListener(test.blog).request(`http://b.test${path}`)).text()

it('rows of an older pipeline only; kept copies of them go, versions stay', async () => {
  expect(await renewHtml(test.blog)).toBe(0)
  const rows = () =>
    test.database.query<object[]>(
      'SELECT id, html, excerpt, word_count, version, updated_at FROM post ORDER BY id',
    )
  const before = await rows()
  await blog('/posts')
  await test.database.query(
    "UPDATE post SET html = '<p>old</p>', excerpt = 'old', word_count = 1, pipeline = '1' WHERE slug IN ('moth', 'zip-surgery')",
  )
  await test.database.query("UPDATE page SET html = '<p>old</p>', pipeline = '0' WHERE path = 'about'")
  expect(await renewHtml(test.blog)).toBe(3)
  expect(await rows()).toEqual(before)
  expect(await blog('/about')).not.toContain('<p>old</p>')
  expect(await renewHtml(test.blog)).toBe(0)
})

it('an image of the blog’s own holds its place in the text', async () => {
  const [image] = await test.database.query<{ name: string; width: number; height: number }[]>(
    'SELECT name, width, height FROM image ORDER BY id LIMIT 1',
  )
  await test.database.query('UPDATE post SET body = $1, pipeline = $3 WHERE slug = $2', [
    `![drawing](/media/${image?.name ?? ''})`,
    'moth',
    '1',
  ])
  await renewHtml(test.blog)
  expect(await blog('/posts/moth')).toContain(
    `width="${image?.width ?? 0}" height="${image?.height ?? 0}" loading="lazy" src="/media/${image?.name ?? ''}"`,
  )
})

it('stops when it is told to', async () => {
  await test.database.query("UPDATE post SET pipeline = '1'")
  expect(await renewHtml(test.blog, { signal: AbortSignal.abort() })).toBe(0)
  await renewHtml(test.blog)
})
