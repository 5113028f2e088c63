// Random posts are created and deleted while a reader pages by cursor.
import fc from 'fast-check'
import { afterAll, beforeAll, expect, it } from 'vitest'
import type { CursorPage } from '../../core/paging/cursor.ts'
import { readMeaning } from '../../core/queries/meaning.ts'
import { compileQuery } from '../store/statements/compile-query.ts'
import { testBlog, type TestBlog } from '../testing/database.ts'
import { requestedPage, runPage } from './paged.ts'
import type { Row } from '../store/statements/run-query.ts'
import type { SiteQuery } from '../publish/site.ts'

let test: TestBlog
let query: SiteQuery
beforeAll(async () => {
  test = await testBlog()
  const read = readMeaning({
    from: 'posts',
    where: ['published'],
    order: ['-publishedAt'],
    take: 'pages',
    pages: { size: 4, by: 'cursor' },
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const compiled = compileQuery(test.database, read.meaning, 'reader', test.blog.site.definition)
  query = { name: 'listing', meaning: read.meaning, compiled: { reader: compiled, author: compiled } }
})
afterAll(() => test.close())

const sql = <T>(text: string, values: unknown[] = []) => test.database.query<T[]>(text, values)
const request = async (text: string) => {
  const search = new URLSearchParams(text)
  return (
    await runPage(
      { ports: test.blog, query, as: 'reader', parameters: {}, at: { path: '/list', search } },
      requestedPage(test.blog, query, {}, search),
    )
  ).shown as CursorPage<Row>
}
const searchOf = ({ url }: { url: string }) => url.replace(/^[^?]*\??/, '')
const idsOf = ({ items }: { items: Row[] }) => items.map((one) => Number(one['id']))

it('no post that stays is repeated or left out (random interleavings)', async () => {
  const change = fc.record({
    kind: fc.constantFrom('insert' as const, 'delete' as const),
    days: fc.integer({ min: 0, max: 400 }),
  })
  let made = 0
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.array(change, { maxLength: 3 }), { maxLength: 14 }),
      fc.boolean(),
      async (rounds, turns) => {
        const publicIds = async () =>
          (
            await sql<{ id: number }>(
              'SELECT id FROM post WHERE published_at <= now() ORDER BY published_at DESC, id DESC',
            )
          ).map((one) => one.id)
        const before = await publicIds()
        const seen: number[] = []
        let page = await request('')
        for (let round = 0; ; round++) {
          seen.push(...idsOf(page))
          for (const { kind, days } of rounds[round] ?? [])
            if (kind === 'insert')
              await sql(
                `INSERT INTO post (title, slug, excerpt, body, html, pipeline, word_count, published_at)
               VALUES ('New', $1, '', '', '', '2', 1, now() - make_interval(days => $2))`,
                [`new-${++made}`, days],
              )
            else
              await sql(
                'DELETE FROM post WHERE id = (SELECT id FROM post WHERE published_at <= now() - make_interval(days => $1) ORDER BY published_at DESC LIMIT 1)',
                [days],
              )
          if (!page.next) break
          // Paging back and forth changes nothing.
          const next = await request(searchOf(page.next))
          if (turns && next.previous) {
            const again = await request(searchOf(next.previous))
            const there = idsOf(again).at(-1) ?? 0
            expect(idsOf(next)).not.toContain(there)
          }
          page = next
        }
        expect(new Set(seen).size).toBe(seen.length)
        const stayed = new Set(await publicIds())
        const lost = before.filter((id) => stayed.has(id) && !seen.includes(id))
        expect(lost).toEqual([])
      },
    ),
    { numRuns: 25 },
  )
})
