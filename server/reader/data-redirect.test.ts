// Redirects whose target depends on a row: where they lead, and what they never tell.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { renameSlug, saveTexts, textOf } from '../testing/edits.ts'
import { answer } from './answer.ts'
import { internalRequest } from './request.ts'
import { Walk } from './walk/walk.ts'

let test: TestBlog
beforeAll(async () => {
  test = await testBlog()
})
afterAll(() => test.close())

const get = (target: string) => answer(test.blog, internalRequest(target))
async function walk(target: string) {
  const request = internalRequest(target)
  const walk = new Walk(request, new Date(), test.blog.site.version)
  await answer(test.blog, request, walk)
  return walk.record
}

describe('a redirect that depends on a row', () => {
  const route = `- name: by-number
  path: /p/:number
  params: { number: integer }
  data: { post: by-number }
  redirect: { to: /posts/:post.slug }
`
  const query =
    'from: posts\nwhere:\n  - published\n  - { field: id, is: equal, to: ":number" }\ntake: one\nempty: not-found\n'
  const idOf = async (slug: string) => {
    const rows = await test.database.query<{ id: number }[]>('SELECT id FROM post WHERE slug = $1', [slug])
    return Number(rows[0]?.id)
  }
  let before = ''
  beforeAll(async () => {
    before = await textOf(test.blog, 'routes.yaml')
    const saved = await saveTexts(test.blog, {
      'routes.yaml': route + before,
      'queries/by-number.yaml': query,
    })
    expect(saved).toMatchObject({ ok: true })
  })
  afterAll(() => saveTexts(test.blog, { 'routes.yaml': before, 'queries/by-number.yaml': null }))

  it('leads to the page of the row, and keeps the query string', async () => {
    const path = `/p/${await idOf('moth')}`
    const answered = async (target: string) => {
      const { status, headers } = await get(target)
      return [status, headers['location']]
    }
    expect(await answered(path)).toEqual([301, '/posts/moth'])
    expect(await answered(`${path}?ref=card`)).toEqual([301, '/posts/moth?ref=card'])
  })

  it('answers 404 for rows that do not exist or that readers must not see, and never names them', async () => {
    for (const slug of ['letter-to-a-new-volunteer', 'the-long-tandem-story']) {
      const { status, headers, body } = await get(`/p/${await idOf(slug)}`)
      expect([status, headers['location']]).toEqual([404, undefined])
      expect(body).not.toContain(slug)
    }
    for (const target of ['/p/999999', '/p/99999999999999', '/p/abc', '/p/-1'])
      expect([target, (await get(target)).status]).toEqual([target, 404])
  })

  it('follows the slug when it changes, at once', async () => {
    const path = `/p/${await idOf('zip-surgery')}`
    expect((await get(path)).headers['location']).toBe('/posts/zip-surgery')
    await renameSlug(test.blog, 'post', 'zip-surgery', 'surgery-on-zips')
    expect((await get(path)).headers['location']).toBe('/posts/surgery-on-zips')
    await renameSlug(test.blog, 'post', 'surgery-on-zips', 'zip-surgery')
  })

  it('is walked with its query', async () => {
    const record = await walk(`/p/${await idOf('moth')}`)
    expect(record.response.status).toBe(301)
    expect(record.queries.runs).toMatchObject([{ query: 'by-number', rows: 1, shown: [{ label: 'Moth' }] }])
  })
})
