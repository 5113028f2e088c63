// Comments through the form of a post: added once, refused with their errors, and only from the blog itself.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { formRequest } from '../testing/requests.ts'
import { answer } from './answer.ts'
import { internalRequest, type BlogRequest } from './request.ts'

let test: TestBlog
beforeAll(async () => (test = await testBlog()))
afterAll(() => test.close())

const get = (target: string) => answer(test.blog, internalRequest(target))
const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const send = (slug: string, fields: Record<string, string>, origin?: BlogRequest['origin']) =>
  answer(test.blog, formRequest(`/posts/${slug}/comments`, fields, origin ? { origin } : {}))

const OWN: BlogRequest['origin'] = { origin: 'http://b.test', host: 'b.test', fetchSite: undefined }

describe('comments', () => {
  it('are added once, shown last with their age, counted, and redirected to', async () => {
    const once = crypto.randomUUID()
    expect((await get('/posts/moth')).body).toContain('3 comments')
    const first = await send('moth', { name: 'Vera', text: 'Thank you <b>all</b>\nfrom row two', once })
    expect(first.status).toBe(303)
    const again = await send('moth', { name: 'Vera', text: 'Thank you', once })
    expect(again.headers['location']).toBe(first.headers['location'])
    const { body } = await get('/posts/moth')
    expect(body).toContain('4 comments')
    expect(body).toContain('Thank you &lt;b&gt;all&lt;/b&gt;<br>from row two')
    expect(body).toMatch(/<b>Vera<\/b> <time [^>]*>just now/)
    expect(first.headers['location']).toBe(
      `/posts/moth#comment-${/id="comment-(\d+)"(?!.*id="comment-)/s.exec(body)?.[1] ?? ''}`,
    )
    expect((await get('/posts?page=3')).body).toContain('4 comments')
  })
  it.each(['', 'x', '-'.repeat(36), '0'.repeat(36), 'zzzzzzzz-zzzz-zzzz-zzzz-zzzzzzzzzzzz', "' OR 1=1"])(
    'are added with the token %j, which identifies no form',
    async (once) => {
      expect((await send('the-toaster-inquest', { name: 'Vera', text: 'Thank you', once })).status).toBe(303)
    },
  )
  it('the first one replaces “No comments yet”', async () => {
    await sql("DELETE FROM comment WHERE post_id = (SELECT id FROM post WHERE slug = 'moth')")
    expect((await get('/posts/moth')).body).toContain('No comments yet.')
    await send('moth', { name: 'A', text: 'First' })
    const { body } = await get('/posts/moth')
    expect([body.includes('No comments yet.'), body.includes('1 comment<')]).toEqual([false, true])
  })
  it('that are invalid show the form with the typed text and the error beside its field', async () => {
    const { status, body } = await send('moth', { name: '', text: 'kept <i>text</i>' })
    expect(status).toBe(422)
    expect(body).toContain('kept &lt;i&gt;text&lt;/i&gt;</textarea>')
    expect(body).toMatch(/id="say-name-error">[^<]*name/)
  })
  it.each([
    ['from the requested host', OWN],
    ['from the requested host over HTTPS, which a proxy ends', { ...OWN, origin: 'https://b.test' }],
    ['without an origin, from the same origin', { ...OWN, origin: undefined, fetchSite: 'same-origin' }],
  ])('%s are accepted', async (_, origin) => {
    expect((await send('moth', { name: 'x', text: 'x' }, origin)).status).toBe(303)
  })
  it.each([
    [
      'without an origin, from the same site',
      'moth',
      { ...OWN, origin: undefined, fetchSite: 'same-site' },
      403,
    ],
    ['from another port of the host', 'moth', { ...OWN, origin: 'http://b.test:81' }, 403],
    ['from an opaque origin', 'moth', { ...OWN, origin: 'null' }, 403],
    ['from another site', 'moth', { ...OWN, origin: 'https://evil.example' }, 403],
    ['without an origin', 'moth', { ...OWN, origin: undefined }, 403],
    ['for a draft', 'letter-to-a-new-volunteer', OWN, 404],
    ['for an unknown post', 'no-such-post', OWN, 404],
    ['for a post with closed comments', 'the-first-open-day', OWN, 403],
  ])('%s are refused and not stored', async (_, slug, origin, status) => {
    const before = await sql('SELECT count(*) FROM comment')
    expect((await send(slug, { name: 'x', text: 'x' }, origin)).status).toBe(status)
    expect(await sql('SELECT count(*) FROM comment')).toEqual(before)
  })
})
