// Comments of readers: who may write, what is shown to whom, and where. On the demo, in which only known writers are shown
// at once.
import { afterAll, beforeAll, beforeEach, describe, expect, it } from 'vitest'
import { success } from '../../../core/shapes/outcome.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import { sendComment } from '../../testing/comments.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { saveTexts, textOf } from '../../testing/edits.ts'
import { answer } from '../answer.ts'
import { internalRequest, type BlogRequest } from '../request.ts'
import type { BlogResponse } from '../responses.ts'

let test: TestBlog
let settings: string
beforeAll(async () => {
  test = await testBlog({ origins: ['http://b.test'] })
  settings = await textOf(test.blog, 'blog.yaml')
})
afterAll(() => test.close())
beforeEach(async () => {
  await test.database.query("DELETE FROM comment WHERE post_id IN (SELECT id FROM post WHERE slug = 'moth')")
})

const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const get = (target: string, cookies: BlogRequest['cookies'] = {}) =>
  answer(test.blog, internalRequest(target, { cookies }))
const send = (fields: Record<string, string>, more: Parameters<typeof sendComment>[3] = {}) =>
  sendComment(test.blog, 'moth', { name: 'Vera', ...fields }, more)
const stored = () =>
  sql<{ id: number; name: string; text: string; state: string; depth: number; reasons: { code: string }[] }>(
    "SELECT c.* FROM comment c JOIN post p ON p.id = c.post_id WHERE p.slug = 'moth' ORDER BY c.id",
  )
/** The cookies that a browser sends after an answer. */
const cookiesOf = ({ cookies = [] }: BlogResponse): Record<string, string> =>
  Object.fromEntries(
    cookies.map((one) => {
      const [pair = ''] = one.split(';')
      const at = pair.indexOf('=')
      return [pair.slice(0, at), decodeURIComponent(pair.slice(at + 1))]
    }),
  )
const setState = (name: string, state: CommentEntity['state']) =>
  test.blog.store.write(async ({ manager }) => {
    await manager.update(CommentEntity, { name }, { state })
    return success(null)
  })
const withRules = async (rules: string, work: () => Promise<void>) => {
  const saved = await saveTexts(test.blog, {
    'blog.yaml': settings.replace(/^comments:\n(?: {2}.*\n)*/m, `comments: ${rules}\n`),
  })
  expect(saved.ok ? [] : saved.problems).toEqual([])
  try {
    await work()
  } finally {
    await saveTexts(test.blog, { 'blog.yaml': settings })
  }
}

describe('a comment of an unknown writer', () => {
  it('waits; only its writer sees it, and nobody else', async () => {
    const answered = await send({ text: 'Thank you <b>all</b>\nfrom *row two*' })
    const [row] = await stored()
    expect([row?.state, row?.reasons]).toEqual(['waiting', [{ code: 'unknown-writer' }]])
    expect([answered.status, answered.headers['location']]).toEqual([303, `/posts/moth#comment-${row?.id}`])
    const mine = await get('/posts/moth', cookiesOf(answered))
    expect(mine.body).toContain('Thank you &lt;b&gt;all&lt;/b&gt;<br>\nfrom <em>row two</em>')
    expect(mine.body).toContain('waits for approval; only you can see it')
    for (const target of ['/posts/moth', '/', '/posts?page=3'])
      expect((await get(target)).body).not.toContain('row two')
    expect(mine.body).toContain('>0 comments<')
  })

  it('is shown to all once it is approved, and so is the next one of the same browser', async () => {
    const cookies = cookiesOf(await send({ text: 'First' }))
    expect((await get('/posts/moth')).body).toContain('No comments yet.')
    await setState('Vera', 'shown')
    expect((await get('/posts/moth')).body).toContain('<div class="says"><p>First</p></div>')
    await send({ text: 'Second' }, { cookies })
    expect((await stored()).map((one) => one.state)).toEqual(['shown', 'shown'])
    await send({ text: 'By somebody with the same name' })
    expect((await stored()).map((one) => one.state)).toEqual(['shown', 'shown', 'waiting'])
    expect((await get('/posts?page=3')).body).toContain('2 comments')
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
    const answered = await send({ text: 'x' }, { origin: { origin, host, fetchSite } })
    expect([answered.status, (await stored()).length]).toEqual([status, status === 303 ? 1 : 0])
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
    const { status, body } = await send({ name: ' \u200b\u2800', email: 'nobody', text: 'kept <i>text</i>' })
    expect(status).toBe(422)
    expect(body).toContain('kept &lt;i&gt;text&lt;/i&gt;</textarea>')
    expect(body).toContain('<a href="#say-name">Enter a name')
    expect(body).toMatch(/id="say-name-error">Enter a name/)
    expect(body).toMatch(/id="say-email-error">This is not an e-mail address/)
    expect(body).toContain('value="nobody"')
  })
  it('that is sent twice with the same text adds one comment', async () => {
    const [one, two] = await Promise.all([
      send({ text: 'Once' }, { token: { id } }),
      send({ text: 'Once' }, { token: { id } }),
    ])
    const three = await send({ text: 'Once' }, { token: { id } })
    expect(new Set([one, two, three].map((each) => each.headers['location'])).size).toBe(1)
    expect(await stored()).toHaveLength(1)
  })
  it('that is sent again with another text, or to another post, is shown again with the text', async () => {
    await send({ text: 'Once' }, { token: { id } })
    const again = await send({ text: 'Another' }, { token: { id } })
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
    const answered = await send({ text: 'Typed', token })
    expect([answered.status, answered.body.includes('>Typed</textarea>')]).toEqual([422, true])
    expect(await stored()).toEqual([])
  })
  it('of another reader is not accepted; a lost cookie is, from the same address', async () => {
    const page = await answer(test.blog, { ...internalRequest('/posts/moth'), client: '192.0.2.1' })
    const token = /name="token" value="([^"]+)"/.exec(page.body)?.[1] ?? ''
    const asked = (client: string, cookies: Record<string, string>) =>
      send({ text: 'x', token }, { client, cookies })
    expect((await asked('192.0.2.2', {})).status).toBe(422)
    expect((await asked('192.0.2.2', cookiesOf(page))).status).toBe(303)
    expect((await asked('192.0.2.1', {})).status).toBe(303)
  })
  it('that is older than a week is shown again with a new token', async () => {
    expect((await send({ text: 'x' }, { token: { open: 8 * 86_400_000 } })).status).toBe(422)
  })
  it('can be previewed, and nothing is stored', async () => {
    const { status, body } = await send({ text: '**Bold** <script>', do: 'preview' })
    expect([status, body.includes('<p><strong>Bold</strong> &lt;script&gt;</p>')]).toEqual([200, true])
    expect(body).toContain('>**Bold** &lt;script&gt;</textarea>')
    expect(await stored()).toEqual([])
  })
  it('remembers the name on request, and forgets it on request', async () => {
    const cookies = cookiesOf(await send({ text: 'x', name: 'Zoë', remember: 'on' }))
    const { body } = await get('/posts/zip-surgery', cookies)
    expect(body).toContain('name="name" value="Zoë"')
    expect((await get('/posts/zip-surgery')).body).toContain('name="name" value=""')
    const forgotten = await send({ text: 'y', name: 'Zoë' }, { cookies })
    expect(forgotten.cookies?.find((one) => one.startsWith('commenter='))).toContain('Max-Age=0')
  })
  it('sets cookies that scripts cannot read', async () => {
    const { cookies = [] } = await get('/posts/moth')
    expect(cookies).toHaveLength(1)
    expect(cookies[0]).toMatch(/^writer=[\w.-]+; Max-Age=31536000; Path=\/; HttpOnly; SameSite=Lax$/)
    // A page without a form makes nobody known.
    expect((await get('/posts')).cookies).toBeUndefined()
  })
  it('accepts no cookie that it has not signed', async () => {
    const cookies = cookiesOf(await send({ text: 'Mine' }))
    const forged = { writer: `${(cookies['writer'] ?? '').split('.')[0] ?? ''}.AAAAAAAAAAAAAAAAAAAAAA` }
    expect((await get('/posts/moth', cookies)).body).toContain('>Mine<')
    expect((await get('/posts/moth', forged)).body).not.toContain('>Mine<')
  })
})

describe('replies', () => {
  const addTo = async (parent: string, text: string, cookies: Record<string, string>) =>
    await send({ text, parent }, { cookies })
  it('follow the comment that they reply to, as deep as declared; deeper ones join the last level', async () => {
    await withRules('{ rate: { per-address: 50 } }', async () => {
      const cookies = cookiesOf(await send({ text: 'one' }))
      await setState('Vera', 'shown')
      const idOf = async (text: string) => String((await stored()).find((row) => row.text === text)?.id)
      await addTo('', 'two', cookies)
      await addTo(await idOf('one'), 'one a', cookies)
      await addTo(await idOf('one a'), 'one a i', cookies)
      await addTo(await idOf('one a i'), 'one a ii', cookies)
      await addTo(await idOf('one'), 'one b', cookies)
      const { body } = await get('/posts/moth')
      const shown = [...body.matchAll(/class="depth-(\d)"[\s\S]*?class="says"><p>([^<]*)/g)]
      expect(shown.map(([, depth, text]) => `${depth} ${text}`)).toEqual([
        '0 one',
        '1 one a',
        '2 one a i',
        '2 one a ii',
        '1 one b',
        '0 two',
      ])
    })
  })
  it('disappear and come back with the comment above them', async () => {
    const cookies = cookiesOf(await send({ text: 'above' }))
    await setState('Vera', 'shown')
    const [above] = await stored()
    await addTo(String(above?.id), 'below', cookies)
    const count = async () => /data-live="count-above">(\d+)/.exec((await get('/posts/moth')).body)?.[1]
    expect(await count()).toBe('2')
    await sql("UPDATE comment SET state = 'spam' WHERE id = $1", [above?.id])
    expect(await sql('SELECT state, parents_shown FROM comment WHERE parent_id = $1', [above?.id])).toEqual([
      { state: 'shown', parents_shown: false },
    ])
    await test.blog.store.write(async ({ manager }) => {
      await manager.update(CommentEntity, { id: above?.id ?? 0 }, { state: 'deleted' })
      return success(null)
    })
    expect([await count(), (await get('/posts/moth')).body.includes('below')]).toEqual(['0', false])
    await setState('Vera', 'shown')
    expect(await count()).toBe('2')
  })
  it.each([
    ['a comment of another post', "SELECT id FROM comment WHERE state = 'shown' LIMIT 1"],
    [
      'a comment that waits',
      "INSERT INTO comment (post_id, name, text, state) SELECT id, 'x', 'x', 'waiting' FROM post WHERE slug = 'moth' RETURNING id",
    ],
    ['a comment that does not exist', 'SELECT 999999 AS id'],
  ])('to %s keep the text and are no replies when they are sent again', async (_, text) => {
    const found: unknown = await sql(text)
    const [{ id } = { id: 0 }] = (Array.isArray(found) ? found.flat() : []) as { id: number }[]
    const answered = await send({ text: 'My reply', parent: String(id) })
    expect([answered.status, answered.body.includes('>My reply</textarea>')]).toEqual([422, true])
    expect(answered.body).not.toContain('name="parent"')
  })
  it('are placed by the database on the post of the comment above, and never in a circle', async () => {
    const [one] = await sql<{ id: number; post_id: number }>(
      'SELECT id, post_id FROM comment ORDER BY id LIMIT 1',
    )
    await expect(
      sql(
        "INSERT INTO comment (post_id, parent_id, name, text) SELECT id, $1, 'x', 'x' FROM post WHERE id <> $2 LIMIT 1",
        [one?.id, one?.post_id],
      ),
    ).rejects.toMatchObject({ constraint: 'comment_parent_post_check' })
    await expect(sql('UPDATE comment SET parent_id = id WHERE id = $1', [one?.id])).rejects.toMatchObject({
      constraint: 'comment_parent_check',
    })
  })
})

describe('pages of comments', () => {
  const fill = (count: number) =>
    sql(
      "INSERT INTO comment (post_id, name, text, created_at) SELECT post.id, 'R', 'number ' || n || '.', now() - make_interval(mins => $1 - n) FROM post, generate_series(1, $1::int) n WHERE slug = 'moth' ORDER BY n",
      [count],
    )
  const numbers = (body: string) => [...body.matchAll(/>number (\d+)\./g)].map(([, one]) => Number(one))
  it.each([
    ['oldest-first', (page: number) => [page * 30 - 29, page * 30]],
    ['newest-first', (page: number) => [61 - page * 30 + 30, 61 - page * 30 + 1]],
  ])('%s have the declared order and size, and a permanent address finds its page', async (order, edges) => {
    const moth = await sql<{ id: number }>("SELECT id FROM post WHERE slug = 'moth'")
    await withRules(`{ order: ${order}, page-size: 30 }`, async () => {
      await fill(61)
      test.blog.fragments.clear('test')
      const first = numbers((await get('/posts/moth')).body)
      expect([first.length, first[0], first.at(-1)]).toEqual([30, ...edges(1)])
      const second = numbers((await get('/posts/moth?comments=2')).body)
      expect([second.length, second[0], second.at(-1)]).toEqual([30, ...edges(2)])
      expect(numbers((await get('/posts/moth?comments=3')).body)).toHaveLength(1)
      for (const n of [1, 30, 31, 32, 60, 61]) {
        const [row] = await sql<{ id: number }>('SELECT id FROM comment WHERE post_id = $1 AND text = $2', [
          moth[0]?.id,
          `number ${n}.`,
        ])
        const link = await get(`/posts/moth?comment=${row?.id}&x=1`)
        expect(link.status).toBe(302)
        expect(numbers((await get(link.headers['location'] ?? '')).body), `${n}`).toContain(n)
      }
    })
  })
  it('a new comment is redirected to on its page', async () => {
    await fill(60)
    await withRules('{ show: at-once, page-size: 30 }', async () => {
      const { headers } = await send({ text: 'last' })
      expect(headers['location']).toMatch(/^\/posts\/moth\?comments=3#comment-\d+$/)
    })
  })
  it('the address of a comment that nobody sees is the address of its post', async () => {
    await send({ text: 'waits' })
    const [row] = await stored()
    expect((await get(`/posts/moth?comment=${row?.id}`)).status).toBe(200)
    expect((await get('/posts/moth?comment=0')).status).toBe(200)
  })
})

describe('rules', () => {
  it.each([
    ['show: after-approval', {}, 'waiting', ['after-approval']],
    ['show: at-once', {}, 'shown', []],
    ['show: at-once', { text: 'https://a.example https://b.example' }, 'waiting', ['links']],
    ['show: at-once, links: 2', { text: 'https://a.example https://b.example' }, 'shown', []],
    ['show: at-once', { homepage: 'https://a.example' }, 'spam', ['honeypot']],
    ['show: at-once, honeypot: false', { homepage: 'https://a.example' }, 'shown', []],
    [
      'show: at-once, blocked-words: [cheap spanners]',
      { text: 'CHEAP spanners!' },
      'waiting',
      ['blocked-word'],
    ],
    ['show: at-once, blocked-words: [spanner]', { text: 'cheap spanners' }, 'shown', []],
    ['show: at-once', { name: 'ＩNES  Marchetti' }, 'waiting', ['author-name']],
  ])('{ %s }: %j is %s because of %j', async (rules, fields, state, reasons) => {
    await withRules(`{ ${rules} }`, async () => {
      expect((await send({ text: 'x', ...fields })).status).toBe(303)
      const [row] = await stored()
      expect([row?.state, row?.reasons.map((one) => one.code)]).toEqual([state, reasons])
    })
  })
  it('a form that is sent at once was not filled in by a person', async () => {
    await withRules('{ show: at-once, fill-time: 3s }', async () => {
      await send({ text: 'fast' }, { token: { open: 2_000 } })
      await send({ text: 'slow' }, { token: { open: 4_000 } })
      expect((await stored()).map((one) => [one.text, one.state])).toEqual([
        ['fast', 'waiting'],
        ['slow', 'shown'],
      ])
    })
  })
  it('the same text again waits, and soon is spam', async () => {
    await withRules('{ show: at-once }', async () => {
      for (let time = 0; time < 5; time++) await send({ text: 'Buy my book' })
      expect((await stored()).map((one) => one.state)).toEqual([
        'shown',
        'waiting',
        'waiting',
        'spam',
        'spam',
      ])
    })
  })
  it('comments close after a time, or for all', async () => {
    await withRules('{ closes-after: 1d }', async () => {
      expect((await send({ text: 'late' })).status).toBe(403)
      expect((await get('/posts/moth')).body).toContain('Comments on this post are closed.')
    })
    await withRules('{ accept: false }', async () => expect((await send({ text: 'x' })).status).toBe(403))
  })
  it('a route may have rules of its own', async () => {
    const routes = await textOf(test.blog, 'routes.yaml')
    await saveTexts(test.blog, {
      'routes.yaml': routes.replace(
        '  action: add-comment\n',
        '  action: add-comment\n  comments: { show: at-once }\n',
      ),
    })
    await send({ text: 'x' })
    expect((await stored()).map((one) => one.state)).toEqual(['shown'])
    await saveTexts(test.blog, { 'routes.yaml': routes })
  })
  it('rates are counted by address and by post, whatever process asks; the answer says when to try again', async () => {
    await withRules('{ rate: { per-address: 2, per-post: 4, within: 1h } }', async () => {
      const from = async (client: string) => {
        const { status, headers, body } = await send({ text: `from ${client}` }, { client })
        if (status === 429) {
          expect(Number(headers['retry-after'])).toBeGreaterThan(0)
          expect(body).toContain(`>from ${client}</textarea>`)
        }
        return status
      }
      expect([await from('192.0.2.9'), await from('192.0.2.9'), await from('192.0.2.9')]).toEqual([
        303, 303, 429,
      ])
      // One IPv6 network is one address.
      expect(await from('2001:db8:1:2::1')).toBe(303)
      expect(await from('2001:db8:1:2:ffff::9')).toBe(303)
      expect(await from('2001:db8:1:3::1')).toBe(429)
      expect(await stored()).toHaveLength(4)
    })
  })
})

describe('writers', () => {
  it('change and delete what they have just written; it is judged again', async () => {
    const cookies = cookiesOf(await send({ text: 'A tpyo' }))
    await setState('Vera', 'shown')
    const [row] = await stored()
    const comment = String(row?.id)
    expect((await get('/posts/moth', cookies)).body).toContain('value="edit">Edit')
    expect((await get('/posts/moth')).body).not.toContain('value="edit">Edit')
    const form = await send({ comment, do: 'edit' }, { cookies })
    expect(form.body).toContain('>A tpyo</textarea>')
    await send({ comment, do: 'save', text: 'A typo', name: '' }, { cookies })
    expect((await stored()).map((one) => [one.text, one.state])).toEqual([['A typo', 'shown']])
    expect((await get('/posts/moth')).body).toContain('edited')
    expect(await sql("SELECT edits -> 0 ->> 'text' AS was FROM comment WHERE id = $1", [row?.id])).toEqual([
      { was: 'A tpyo' },
    ])
    await send({ comment, do: 'save', text: 'https://a.example https://b.example' }, { cookies })
    expect((await stored()).map((one) => one.state)).toEqual(['waiting'])
    await send({ comment, do: 'delete' }, { cookies })
    expect((await stored()).map((one) => one.state)).toEqual(['deleted'])
    expect((await get('/posts/moth', cookies)).body).not.toContain('a.example')
  })
  it.each(['edit', 'save', 'delete'])(
    'cannot %s what somebody else wrote, or later than declared',
    async (what) => {
      const cookies = cookiesOf(await send({ text: 'Mine' }))
      const other = cookiesOf(await send({ text: 'Another' }))
      const [row] = await stored()
      const fields = { comment: String(row?.id), do: what, text: 'Changed' }
      expect((await send(fields, { cookies: other })).status).toBe(422)
      expect((await send(fields)).status).toBe(422)
      await sql("UPDATE comment SET created_at = now() - interval '16 minutes' WHERE id = $1", [row?.id])
      expect((await send(fields, { cookies })).status).toBe(422)
      expect((await stored())[0]).toMatchObject({ text: 'Mine', state: 'waiting' })
    },
  )
})
