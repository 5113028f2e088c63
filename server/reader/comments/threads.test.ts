// Where comments are shown: replies, pages, and permanent addresses. On the demo.
import { describe, expect, it } from 'vitest'
import { success } from '../../../core/shapes/outcome.ts'
import { CommentEntity } from '../../store/entities/content.ts'
import { useCommentedDemo, type CommentedPage } from '../../testing/comments.ts'
import { cookiesAfter } from '../../reader/responses.ts'
import type { TestBlog } from '../../testing/database.ts'

let test: TestBlog
let page: CommentedPage
useCommentedDemo((made) => ({ test, page } = made))

const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)

describe('replies', () => {
  const addTo = async (parent: string, text: string, cookies: Record<string, string>) =>
    await page.send({ text, parent }, { cookies })
  it('follow the comment that they reply to, as deep as declared; deeper ones join the last level', async () => {
    await page.withRules('{ rate: { per-address: 50 } }', async () => {
      const cookies = cookiesAfter(await page.send({ text: 'one' }))
      await page.setState('Vera', 'shown')
      const idOf = async (text: string) => String((await page.stored()).find((row) => row.text === text)?.id)
      await addTo('', 'two', cookies)
      await addTo(await idOf('one'), 'one a', cookies)
      await addTo(await idOf('one a'), 'one a i', cookies)
      await addTo(await idOf('one a i'), 'one a ii', cookies)
      await addTo(await idOf('one'), 'one b', cookies)
      const { body } = await page.get('/posts/moth')
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
    const cookies = cookiesAfter(await page.send({ text: 'above' }))
    await page.setState('Vera', 'shown')
    const [above] = await page.stored()
    await addTo(String(above?.id), 'below', cookies)
    const count = async () => /data-live="count-above">(\d+)/.exec((await page.get('/posts/moth')).body)?.[1]
    expect(await count()).toBe('2')
    await sql("UPDATE comment SET state = 'spam' WHERE id = $1", [above?.id])
    // Another program has changed it, and this blog follows none.
    test.blog.fragments.clear('changed by SQL')
    expect(await sql('SELECT state, parents_shown FROM comment WHERE parent_id = $1', [above?.id])).toEqual([
      { state: 'shown', parents_shown: false },
    ])
    await test.blog.store.write(async ({ manager }) => {
      await manager.update(CommentEntity, { id: above?.id ?? 0 }, { state: 'deleted' })
      return success(null)
    })
    expect([await count(), (await page.get('/posts/moth')).body.includes('below')]).toEqual(['0', false])
    await page.setState('Vera', 'shown')
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
    const answered = await page.send({ text: 'My reply', parent: String(id) })
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
    await page.withRules(`{ order: ${order}, page-size: 30 }`, async () => {
      await fill(61)
      test.blog.fragments.clear('test')
      const first = numbers((await page.get('/posts/moth')).body)
      expect([first.length, first[0], first.at(-1)]).toEqual([30, ...edges(1)])
      const second = numbers((await page.get('/posts/moth?comments=2')).body)
      expect([second.length, second[0], second.at(-1)]).toEqual([30, ...edges(2)])
      expect(numbers((await page.get('/posts/moth?comments=3')).body)).toHaveLength(1)
      for (const n of [1, 30, 31, 32, 60, 61]) {
        const [row] = await sql<{ id: number }>('SELECT id FROM comment WHERE post_id = $1 AND text = $2', [
          moth[0]?.id,
          `number ${n}.`,
        ])
        const link = await page.get(`/posts/moth?comment=${row?.id}&x=1`)
        expect(link.status).toBe(302)
        expect(numbers((await page.get(link.headers['location'] ?? '')).body), `${n}`).toContain(n)
      }
    })
  })
  it('a new comment is redirected to on its page', async () => {
    await fill(60)
    await page.withRules('{ show: at-once, page-size: 30 }', async () => {
      const { headers } = await page.send({ text: 'last' })
      expect(headers['location']).toMatch(/^\/posts\/moth\?comments=3#comment-\d+$/)
    })
  })
  it('the address of a comment that nobody sees is the address of its post', async () => {
    await page.send({ text: 'waits' })
    const [row] = await page.stored()
    expect((await page.get(`/posts/moth?comment=${row?.id}`)).status).toBe(200)
    expect((await page.get('/posts/moth?comment=0')).status).toBe(200)
  })
})
