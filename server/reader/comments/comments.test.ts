// Comments of readers: who may write, and what is shown to whom. On the demo, in which only known writers are shown at once.
import { describe, expect, it } from 'vitest'
import { useCommentedDemo, sendComment, type CommentedPage } from '../../testing/comments.ts'
import { cookiesAfter } from '../../reader/responses.ts'
import type { TestBlog } from '../../testing/database.ts'
import { answer } from '../answer.ts'
import { internalRequest } from '../request.ts'

let test: TestBlog
let page: CommentedPage
useCommentedDemo((made) => ({ test, page } = made))

const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)

describe('a comment of an unknown writer', () => {
  it('waits; only its writer sees it, and nobody else', async () => {
    const answered = await page.send({ text: 'Thank you <b>all</b>\nfrom *row two*' })
    const [row] = await page.stored()
    expect([row?.state, row?.reasons]).toEqual(['waiting', [{ code: 'unknown-writer' }]])
    expect([answered.status, answered.headers['location']]).toEqual([303, `/posts/moth#comment-${row?.id}`])
    const mine = await page.get('/posts/moth', cookiesAfter(answered))
    expect(mine.body).toContain('Thank you &lt;b&gt;all&lt;/b&gt;<br>\nfrom <em>row two</em>')
    expect(mine.body).toContain('waiting for approval, visible only to you')
    for (const target of ['/posts/moth', '/', '/posts?page=3'])
      expect((await page.get(target)).body).not.toContain('row two')
    expect(mine.body).toContain('>0 comments<')
  })

  it('is shown to all once it is approved, and so is the next one of the same browser', async () => {
    const cookies = cookiesAfter(await page.send({ text: 'First' }))
    expect((await page.get('/posts/moth')).body).toContain('No comments yet.')
    await page.setState('Vera', 'shown')
    expect((await page.get('/posts/moth')).body).toContain('<div class="says"><p>First</p></div>')
    await page.send({ text: 'Second' }, { cookies })
    expect((await page.stored()).map((one) => one.state)).toEqual(['shown', 'shown'])
    await page.send({ text: 'By somebody with the same name' })
    expect((await page.stored()).map((one) => one.state)).toEqual(['shown', 'shown', 'waiting'])
    expect((await page.get('/posts?page=3')).body).toContain('2 comments')
  })

  it.each([
    ['http://b.test', 'b.test', undefined, 303],
    ['http://b.test', 'B.test', undefined, 303],
    [undefined, 'b.test', 'same-origin', 303],
    ['https://b.test', 'b.test', undefined, 403],
    ['http://evil.test', 'evil.test', 'same-origin', 403],
    [undefined, 'evil.test', 'same-origin', 403],
    ['http://b.test', undefined, undefined, 403],
    [undefined, 'b.test', 'same-site', 403],
    ['http://b.test:81', 'b.test', undefined, 403],
    ['null', 'b.test', undefined, 403],
    [undefined, 'b.test', undefined, 403],
  ])('from origin %s, sent to host %s (%s): %i', async (origin, host, fetchSite, status) => {
    const answered = await page.send({ text: 'x' }, { origin: { origin, host, fetchSite } })
    expect([answered.status, (await page.stored()).length]).toEqual([status, status === 303 ? 1 : 0])
  })

  it.each([
    ['a draft', 'letter-to-a-new-volunteer', 404],
    ['an unknown post', 'no-such-post', 404],
    ['a post whose comments are closed', 'the-first-open-day', 403],
  ])('to %s is rejected, and nothing is stored', async (_, slug, status) => {
    const before = await sql('SELECT count(*) FROM comment')
    const answered = await sendComment(test.blog, slug, { name: 'x', text: 'what I typed' })
    expect(answered.status).toBe(status)
    if (status === 403) expect(answered.body).toContain('readonly>what I typed</textarea>')
    expect(await sql('SELECT count(*) FROM comment')).toEqual(before)
  })
})

describe('a form', () => {
  const id = '11111111-1111-4111-8111-111111111111'
  it('with errors is shown again with the typed text, a summary, and each error beside its field', async () => {
    const { status, body } = await page.send({
      name: ' \u200b\u2800',
      email: 'nobody',
      text: 'kept <i>text</i>',
    })
    expect(status).toBe(422)
    expect(body).toContain('kept &lt;i&gt;text&lt;/i&gt;</textarea>')
    expect(body).toContain('<a href="#say-name">Enter a name')
    expect(body).toMatch(/id="say-name-error">Enter a name/)
    expect(body).toMatch(/id="say-email-error">This is not an e-mail address/)
    expect(body).toContain('value="nobody"')
  })
  it('that is sent twice with the same text adds one comment', async () => {
    const [one, two] = await Promise.all([
      page.send({ text: 'Once' }, { token: { id } }),
      page.send({ text: 'Once' }, { token: { id } }),
    ])
    const three = await page.send({ text: 'Once' }, { token: { id } })
    expect(new Set([one, two, three].map((each) => each.headers['location'])).size).toBe(1)
    expect(await page.stored()).toHaveLength(1)
  })
  it('that is sent again with another text, or to another post, is shown again with the text', async () => {
    await page.send({ text: 'Once' }, { token: { id } })
    const again = await page.send({ text: 'Another' }, { token: { id } })
    expect([again.status, again.body.includes('>Another</textarea>')]).toEqual([422, true])
    const elsewhere = await sendComment(
      test.blog,
      'zip-surgery',
      { name: 'Vera', text: 'Once' },
      { token: { id } },
    )
    expect([elsewhere.status, elsewhere.body.includes('>Once</textarea>')]).toEqual([422, true])
    // The form that is shown again has a token of its own.
    expect(again.body).not.toContain(`value="${id}`)
  })
  it.each([
    ['no token', ''],
    ['a token that nobody made', `${id}.abc.x.y`],
    ['a token without an id', '.abc.x.y'],
    ['too many parts', 'a.b.c.d.e'],
    ['SQL', "' OR 1=1"],
  ])('with %s is shown again, and works then', async (_, token) => {
    const answered = await page.send({ text: 'Typed', token })
    expect([answered.status, answered.body.includes('>Typed</textarea>')]).toEqual([422, true])
    expect(await page.stored()).toEqual([])
    const [, given = ''] = /name="token" value="([^"]+)"/.exec(answered.body) ?? []
    const again = await page.send({ text: 'Typed', token: given }, { cookies: cookiesAfter(answered) })
    expect([again.status, (await page.stored()).length]).toEqual([303, 1])
  })
  it('of another reader is not accepted; a lost cookie is, from the same address', async () => {
    const read = await answer(test.blog, { ...internalRequest('/posts/moth'), client: '192.0.2.1' })
    const token = /name="token" value="([^"]+)"/.exec(read.body)?.[1] ?? ''
    const asked = (client: string, cookies: Record<string, string>) =>
      page.send({ text: 'x', token }, { client, cookies })
    expect((await asked('192.0.2.2', {})).status).toBe(422)
    expect((await asked('192.0.2.2', cookiesAfter(read))).status).toBe(303)
    expect((await asked('192.0.2.1', {})).status).toBe(303)
  })
  it('that is older than a week is shown again with a new token', async () => {
    expect((await page.send({ text: 'x' }, { token: { open: 8 * 86_400_000 } })).status).toBe(422)
  })
  it('can be previewed, and nothing is stored', async () => {
    const { status, body } = await page.send({ text: '**Bold** <script>', do: 'preview' })
    expect([status, body.includes('<p><strong>Bold</strong> &lt;script&gt;</p>')]).toEqual([200, true])
    expect(body).toContain('>**Bold** &lt;script&gt;</textarea>')
    expect(await page.stored()).toEqual([])
  })
  it('remembers the name on request, and forgets it on request', async () => {
    const cookies = cookiesAfter(await page.send({ text: 'x', name: 'Zoë', remember: 'on' }))
    const { body } = await page.get('/posts/zip-surgery', cookies)
    expect(body).toContain('name="name" value="Zoë"')
    expect((await page.get('/posts/zip-surgery')).body).toContain('name="name" value=""')
    const forgotten = await page.send({ text: 'y', name: 'Zoë' }, { cookies })
    expect(forgotten.cookies?.find((one) => one.startsWith('commenter='))).toContain('Max-Age=0')
  })
  it('sets cookies that scripts cannot read', async () => {
    const { cookies = [] } = await page.get('/posts/moth')
    expect(cookies).toHaveLength(1)
    expect(cookies[0]).toMatch(/^writer=[\w.-]+; Max-Age=31536000; Path=\/; HttpOnly; SameSite=Lax$/)
    // A page without a form makes nobody known.
    expect((await page.get('/posts')).cookies).toBeUndefined()
  })
  it('accepts no cookie that it has not signed', async () => {
    const cookies = cookiesAfter(await page.send({ text: 'Mine' }))
    const forged = { writer: `${(cookies['writer'] ?? '').split('.')[0] ?? ''}.AAAAAAAAAAAAAAAAAAAAAA` }
    expect((await page.get('/posts/moth', cookies)).body).toContain('>Mine<')
    expect((await page.get('/posts/moth', forged)).body).not.toContain('>Mine<')
  })
})

describe('writers', () => {
  it('change and delete what they have just written; it is judged again', async () => {
    const cookies = cookiesAfter(await page.send({ text: 'A tpyo' }))
    await page.setState('Vera', 'shown')
    const [row] = await page.stored()
    const comment = String(row?.id)
    expect((await page.get('/posts/moth', cookies)).body).toContain('value="edit">Edit')
    expect((await page.get('/posts/moth')).body).not.toContain('value="edit">Edit')
    const form = await page.send({ comment, do: 'edit' }, { cookies })
    expect(form.body).toContain('>A tpyo</textarea>')
    await page.send({ comment, do: 'save', text: 'A typo', name: '' }, { cookies })
    expect((await page.stored()).map((one) => [one.text, one.state])).toEqual([['A typo', 'shown']])
    expect((await page.get('/posts/moth')).body).toContain('edited')
    expect(await sql("SELECT edits -> 0 ->> 'text' AS was FROM comment WHERE id = $1", [row?.id])).toEqual([
      { was: 'A tpyo' },
    ])
    await page.send({ comment, do: 'save', text: 'https://a.example https://b.example' }, { cookies })
    expect((await page.stored()).map((one) => one.state)).toEqual(['waiting'])
    await page.send({ comment, do: 'delete' }, { cookies })
    expect((await page.stored()).map((one) => one.state)).toEqual(['deleted'])
    expect((await page.get('/posts/moth', cookies)).body).not.toContain('a.example')
  })
  it.each(['edit', 'save', 'delete'])(
    'cannot %s what somebody else wrote, or later than declared',
    async (what) => {
      const cookies = cookiesAfter(await page.send({ text: 'Mine' }))
      const other = cookiesAfter(await page.send({ text: 'Another' }))
      const [row] = await page.stored()
      const fields = { comment: String(row?.id), do: what, text: 'Changed' }
      expect((await page.send(fields, { cookies: other })).status).toBe(422)
      expect((await page.send(fields)).status).toBe(422)
      await sql("UPDATE comment SET created_at = now() - interval '16 minutes' WHERE id = $1", [row?.id])
      expect((await page.send(fields, { cookies })).status).toBe(422)
      expect((await page.stored())[0]).toMatchObject({ text: 'Mine', state: 'waiting' })
    },
  )
})
