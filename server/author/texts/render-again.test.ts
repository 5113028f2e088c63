// Stored HTML is rendered again after the pipeline or the rules have changed, and readers see the result.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { blogListener } from '../../reader/listener.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import type { Store } from '../../store/store.ts'
import { renderAgain } from './render-again.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const blog = async (path: string) =>
  await (await blogListener(test.blog).request(`http://b.test${path}`)).text()

it('renders only outdated texts, purges their copies, and keeps their versions', async () => {
  expect(await renderAgain(test.blog)).toBe(0)
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
  expect(await renderAgain(test.blog)).toBe(3)
  expect(await rows()).toEqual(before)
  expect(await blog('/about')).not.toContain('<p>old</p>')
  expect(await renderAgain(test.blog)).toBe(0)
})

it('writes the dimensions of the blog’s own images into the HTML', async () => {
  const [image] = await test.database.query<{ name: string; width: number; height: number }[]>(
    'SELECT name, width, height FROM image ORDER BY id LIMIT 1',
  )
  await test.database.query('UPDATE post SET body = $1, pipeline = $3 WHERE slug = $2', [
    `![drawing](/media/${image?.name ?? ''})`,
    'moth',
    '1',
  ])
  await renderAgain(test.blog)
  expect(await blog('/posts/moth')).toContain(
    `width="${image?.width ?? 0}" height="${image?.height ?? 0}" loading="lazy" src="/media/${image?.name ?? ''}"`,
  )
})

it('does not overwrite a text that is saved while it is rendered', async () => {
  await test.database.query("UPDATE post SET pipeline = '1' WHERE slug = 'moth'")
  const { blog } = test
  const store = {
    // Another author saves after the text was read, and before its HTML is stored.
    write: async (...parts: Parameters<Store['write']>) => {
      await test.database.query("UPDATE post SET body = 'Newer.', html = '<p>Newer.</p>' WHERE slug = 'moth'")
      return await blog.store.write(...parts)
    },
  } as unknown as Store
  await renderAgain({ database: blog.database, site: blog.site, store })
  const [row] = await test.database.query<{ html: string }[]>("SELECT html FROM post WHERE slug = 'moth'")
  expect(row?.html).toBe('<p>Newer.</p>')
  await renderAgain(blog)
})

it('stops when its signal is aborted', async () => {
  await test.database.query("UPDATE post SET pipeline = '1'")
  expect(await renderAgain(test.blog, { signal: AbortSignal.abort() })).toBe(0)
  await renderAgain(test.blog)
})
