// The Comments area over the API: the queue, moderation with undo, replies, edits, writers, and the rules.
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { CommentCounts, CommentDetail, CommentItem } from '../../../contract/comments.ts'
import { forgetDeleted } from '../../author/comments/moderate.ts'
import { sendComment } from '../../testing/comments.ts'
import { HOST, KEY, testWorkbench, type TestWorkbench } from '../../testing/workbench.ts'

let test: TestWorkbench
beforeAll(async () => {
  test = await testWorkbench()
})
afterAll(() => test.close())

interface List {
  comments: CommentItem[]
  counts: CommentCounts
  isMore: boolean
}
const list = async (query = '') => (await test.api<List>('GET', `/api/comments?${query}`)).answer
const one = async (id: number) => (await test.api<CommentDetail>('GET', `/api/comment?id=${id}`)).answer
const moderate = (comments: readonly { id: number; version: number }[], state: string) =>
  test.api<{ step: string }>('POST', '/api/comments/moderate', {
    comments: comments.map(({ id, version }) => ({ id, version })),
    state,
  })
const undo = (step: string) => test.api('POST', '/api/step/undo', { id: step })
const page = async (slug: string) => (await test.read(`/posts/${slug}`)).text
const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)

describe('the queue', () => {
  it('lists the demo’s comments by state, newest first, with counts', async () => {
    const { comments, counts, isMore } = await list()
    expect(counts).toEqual({ waiting: 5, shown: 192, spam: 10, deleted: 2 })
    expect(comments.map((each) => each.name)).toEqual(['Halloran', 'Mina K.', 'Tobias', 'Della Moor', 'Ana'])
    expect(isMore).toBe(false)
    const [first] = comments
    expect(first?.reasons.map((each) => each.code)).toEqual(['links', 'unknown-writer'])
    expect(first?.score).toBeGreaterThan(0.9)
    expect(comments[4]?.score).toBeLessThan(0.5)
  })
  it('is read in pages without gaps or repetitions', async () => {
    const seen: number[] = []
    for (let before = ''; ;) {
      const { comments, isMore } = await list(`state=shown${before}`)
      seen.push(...comments.map((each) => each.id))
      if (!isMore) break
      before = `&before=${comments.at(-1)?.id ?? 0}`
    }
    expect(seen).toHaveLength(192)
    expect(new Set(seen).size).toBe(192)
  })
  it.each([
    ['search=TRUING%20stands', ['Halloran']],
    ['search=halloran%40stands', ['Halloran']],
    ['search=hummed', ['Della Moor']],
    ['search=%25', []],
    ['post=the-saturday-everything-arrived-at-once', ['Ana']],
  ])('%s finds %j', async (query, names) => {
    expect((await list(query)).comments.map((each) => each.name)).toEqual(names)
  })
  it('finds comments by the network address, of which only a hash is stored', async () => {
    await sendComment(test.blog, 'moth', { name: 'N', text: 'from afar' }, { client: '198.51.100.7' })
    expect((await list('search=198.51.100.7')).comments.map((each) => each.text)).toEqual(['from afar'])
    expect((await list('search=198.51.100.8')).comments).toEqual([])
    const [row] = await sql<{ client: string }>("SELECT client FROM comment WHERE name = 'N'")
    expect(row?.client).not.toContain('198')
    await sql("DELETE FROM comment WHERE name = 'N'")
  })
})

describe('a comment', () => {
  it('is seen in its thread as it would read, and is not shown because of that', async () => {
    const [halloran] = (await list()).comments
    const { answer } = await test.api<{ status: number; html: string; path: string }>(
      'GET',
      `/api/comment/page?id=${halloran?.id ?? 0}`,
    )
    expect([answer.status, answer.path]).toEqual([200, '/posts/truing-a-wheel-with-two-spoons'])
    expect(answer.html).toContain(`id="comment-${halloran?.id ?? 0}"`)
    expect(await page('truing-a-wheel-with-two-spoons')).not.toContain('Halloran')
    expect((await list()).counts.waiting).toBe(5)
  })
  it('says which words speak for and against it', async () => {
    const [halloran] = (await list()).comments
    const { words } = await one(halloran?.id ?? 0)
    expect(words.decisions).toBeGreaterThan(150)
    expect(words.weights.find((each) => each.word === 'price')?.weight).toBeGreaterThan(0)
  })
  it('that does not exist is 404', async () => {
    expect((await test.api('GET', '/api/comment?id=999999')).status).toBe(404)
    expect((await test.api('GET', '/api/comment/page?id=999999')).status).toBe(404)
  })
})

describe('moderation', () => {
  it('shows, and undoes, several at once; readers see it at once', async () => {
    const { comments } = await list()
    const chosen = comments.filter((each) => each.post.slug.startsWith('truing'))
    expect(chosen).toHaveLength(2)
    const { status, answer } = await moderate(chosen, 'shown')
    expect(status).toBe(200)
    expect(await page('truing-a-wheel-with-two-spoons')).toContain('Mina K.')
    expect((await list()).counts).toMatchObject({ waiting: 3, shown: 194 })
    expect((await undo(answer.step)).status).toBe(200)
    expect(await page('truing-a-wheel-with-two-spoons')).not.toContain('Mina K.')
    expect((await list()).counts).toMatchObject({ waiting: 5, shown: 192 })
  })
  it('changes nothing if one of them was changed in the meantime', async () => {
    const { comments } = await list()
    const { status, answer } = await moderate(
      comments.map((each, index) => (index === 2 ? { ...each, version: each.version - 1 || 9 } : each)),
      'spam',
    )
    expect([status, (answer as { code?: string }).code]).toEqual([409, 'version-conflict'])
    expect((await list()).counts.waiting).toBe(5)
  })
  it('replies as the post’s author, which shows the comment', async () => {
    const mina = (await list()).comments.find((each) => each.name === 'Mina K.')
    const { answer } = await test.api<{ id: number; step: string }>('POST', '/api/comments/reply', {
      comment: mina?.id,
      text: 'It *works*, Mina.',
    })
    const html = await page('truing-a-wheel-with-two-spoons')
    expect(html).toMatch(
      /Mina K\.[\s\S]*<li id="comment-\d+" class="depth-1">[\s\S]*It <em>works<\/em>, Mina\./,
    )
    expect(html.split('class="by-author"').length - 1).toBe(2)
    await undo(answer.step)
    expect(await page('truing-a-wheel-with-two-spoons')).not.toContain('Mina')
    expect(
      (await test.api('POST', '/api/comments/reply', { comment: mina?.id, text: '\u200b' })).status,
    ).toBe(422)
  })
  it('edits with the history kept', async () => {
    const [first] = (await list('state=shown&search=gran')).comments
    if (!first) throw new Error('no comment')
    const change = (text: string, version: number) =>
      test.api<{ version: number; step: string }>('PUT', '/api/comment', {
        id: first.id,
        version,
        name: 'Idris’s gran',
        text,
      })
    const changed = await change('Forty.', first.version)
    expect(changed.status).toBe(200)
    expect((await one(first.id)).edits).toMatchObject([
      { name: "Idris's gran", text: expect.stringContaining('Fifty') as string },
    ])
    expect((await change('Again', first.version)).status).toBe(409)
    await undo(changed.answer.step)
    expect(await one(first.id)).toMatchObject({ name: "Idris's gran", edits: [] })
  })
  it('of 500 comments is one step', async () => {
    await sql(
      "INSERT INTO comment (post_id, name, text, state) SELECT post.id, 'Crowd', 'n ' || n, 'waiting' FROM post, generate_series(1, 500) n WHERE slug = 'moth'",
    )
    const crowd = await sql<{ id: number; version: number }>(
      "SELECT id, version FROM comment WHERE name = 'Crowd'",
    )
    const { status, answer } = await moderate(crowd, 'shown')
    expect(status).toBe(200)
    expect(await page('moth')).toContain('503 comments')
    await undo(answer.step)
    expect(await page('moth')).toContain('3 comments')
    await sql("DELETE FROM comment WHERE name = 'Crowd'")
  })
  it('keeps the number of comments of each post, whatever is done', async () => {
    const differing = await sql(
      `SELECT post.slug FROM post LEFT JOIN comment_tally tally ON tally.post_id = post.id
       WHERE coalesce(tally.shown, 0) <> (SELECT count(*) FROM comment c WHERE c.post_id = post.id AND c.state = 'shown' AND c.parents_shown)`,
    )
    expect(differing).toEqual([])
  })
})

describe('export and import', () => {
  const exported = async (format: string) =>
    (
      await test.app.request(`http://${HOST}/api/comments/export.${format}`, {
        headers: { host: HOST, authorization: `Bearer ${KEY}` },
      })
    ).text()
  const put = (format: string, text: string) =>
    test.api<{ imported: number; unchanged: number; step: string }>('POST', '/api/comments/import', {
      format,
      text,
    })
  /** Ids are the only thing that may differ. */
  const withoutIds = (text: string) =>
    (JSON.parse(text) as { id: number; 'reply-to'?: number }[]).map(
      ({ id: _, 'reply-to': to, ...more }, _index, all) => ({
        ...more,
        replyTo: all.findIndex((each) => each.id === to),
      }),
    )

  it.each(['json', 'csv'])('as %s loses nothing', async (format) => {
    await sql(
      `INSERT INTO comment (post_id, name, text, state) SELECT post.id, naughty, naughty || E'\n\n"x", y;z\t', 'waiting'
       FROM post, unnest($1::text[]) naughty WHERE slug = 'moth'`,
      [['=SUM(A1)', "'=SUM(A1)", "''-1", '+1', '-1', '@x', ' lead', '"quoted"', 'ünï 🔧', '[]', 'null', '7']],
    )
    const before = withoutIds(await exported('json'))
    const file = await exported(format)
    expect((await put(format, file)).answer).toMatchObject({ imported: 0, unchanged: before.length })
    await sql('TRUNCATE comment')
    const { answer } = await put(format, file)
    expect(answer).toMatchObject({ imported: before.length, unchanged: 0 })
    expect(withoutIds(await exported('json'))).toEqual(before)
    await sql('DELETE FROM comment WHERE text LIKE \'%"x", y;z%\'')
  })
  it.each([
    ['json', '[{"post":"moth"', 'folder-json-invalid'],
    ['json', '[{"post":"nothing","name":"a","text":"b","at":"2026-01-01"}]', 'row-unknown'],
    ['json', '[{"post":"moth","name":"a","text":"b","at":"2026-02-30"}]', 'time-day-unknown'],
    [
      'json',
      '[{"post":"moth","reply-to":9,"name":"a","text":"b","at":"2026-01-01"}]',
      'folder-comment-reply-unknown',
    ],
    ['csv', 'post,name\r\nmoth', 'folder-json-invalid'],
    ['csv', 'post,name,text,at,reasons\r\nmoth,a,b,2026-01-01,[', 'folder-json-invalid'],
  ])('%s %s is refused: %s', async (format, text, code) => {
    const { status, answer } = await put(format, text)
    expect([status, (answer as unknown as { problems: { code: string }[] }).problems[0]?.code]).toEqual([
      422,
      code,
    ])
  })
})

describe('deleted comments', () => {
  it('are deleted for good after 30 days, unless others have replied', async () => {
    const [kept, gone, recent] = await sql<{ id: number }>(
      `INSERT INTO comment (post_id, name, text, state, state_at) SELECT post.id, 'Old ' || n, 'x', 'deleted', now() - make_interval(days => CASE n WHEN 3 THEN 29 ELSE 31 END)
       FROM post, generate_series(1, 3) n WHERE slug = 'moth' RETURNING id`,
    )
    await sql(
      "INSERT INTO comment (post_id, parent_id, name, text) SELECT post_id, id, 'F', 'x' FROM comment WHERE id = $1",
      [kept?.id],
    )
    await forgetDeleted(test.blog)
    const ids = [kept, gone, recent].map((each) => each?.id)
    const left = await sql<{ id: number }>('SELECT id FROM comment WHERE id = ANY ($1) ORDER BY id', [ids])
    expect(left.map((each) => each.id)).toEqual([kept?.id, recent?.id])
    await sql("DELETE FROM comment WHERE name = 'F'")
    await sql('DELETE FROM comment WHERE id = ANY ($1)', [ids])
  })
})

describe('a writer', () => {
  it('is erased everywhere: comments, former texts, the change log, deleted posts', async () => {
    const secret = 'nobody-else@secret.example'
    const sent = await sendComment(test.blog, 'moth', {
      name: 'Secretive',
      email: secret,
      text: 'Secret words',
    })
    const id = Number(/#comment-(\d+)/.exec(sent.headers['location'] ?? '')?.[1])
    await moderate([await one(id)], 'shown')
    await test
      .api('PUT', '/api/comment', { ...(await one(id)), text: 'Other secret words' } as never)
      .catch(() => undefined)
    await sql(
      "INSERT INTO comment (post_id, parent_id, name, text) SELECT post_id, id, 'Friend', 'A reply' FROM comment WHERE id = $1",
      [id],
    )
    await sendComment(test.blog, 'zip-surgery', {
      name: 'S.',
      email: secret.toUpperCase(),
      text: 'More secret words',
    })
    const deleted = await test.api<{ version: number }>('GET', '/api/post?slug=zip-surgery')
    await test.api('POST', '/api/posts/delete', {
      posts: [{ slug: 'zip-surgery', version: deleted.answer.version }],
    })
    const { answer } = await test.api('POST', '/api/comments/erase', { comment: id })
    expect(answer).toMatchObject({ emptied: 1 })
    for (const table of ['comment', 'change_log', 'deleted_row']) {
      const found = await sql(
        `SELECT left(row::text, 900) FROM ${table} row WHERE row::text ~* 'secret' LIMIT 2`,
      )
      expect([table, found]).toEqual([table, []])
    }
    const html = await page('moth')
    expect(html).toContain('A reply')
    expect(html).toContain('Removed at the writer’s request')
  })
})

describe('the rules', () => {
  it('are declared without touching the rest of blog.yaml, and undone', async () => {
    const text = async () =>
      (await test.api<{ text: string }>('GET', '/api/document?path=blog.yaml')).answer.text
    const before = await text()
    const { answer } = await test.api<{ version: number; rules: object }>('GET', '/api/comments/rules')
    const saved = await test.api<{ step: string }>('PUT', '/api/comments/rules', {
      version: answer.version,
      rules: { ...answer.rules, links: 3, 'closes-after': undefined },
    })
    expect(saved.status).toBe(200)
    expect(await text()).toBe(
      before
        .replace(
          '  links: 1 # comments with more of them wait',
          '  links: 3 # comments with more of them wait',
        )
        .replace('  closes-after: 90d\n', ''),
    )
    await undo(saved.answer.step)
    expect(await text()).toBe(before)
  })
  it('are previewed in the form as readers see it', async () => {
    const preview = async (rules: object, isSent = false) =>
      (await test.api<{ html: string }>('POST', '/api/comments/rules/preview', { rules, isSent })).answer.html
    expect(await preview({ fields: { site: 'required' } })).toContain('name="site"')
    expect(await preview({})).not.toContain('name="email"')
    expect(await preview({ accept: false })).toContain('Comments on this post are closed.')
    expect(await preview({}, true)).toContain('Enter a name to show with your comment.')
  })
})
