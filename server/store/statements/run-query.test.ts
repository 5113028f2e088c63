// What the rows of a query depend on.
import { afterAll, beforeAll, expect, it } from 'vitest'
import { NOTHING } from '../../../core/caching/dependence.ts'
import { provenanceOf } from '../../../core/caching/provenance.ts'
import { readMeaning } from '../../../core/queries/meaning.ts'
import type { Query } from '../../../core/shapes/schemas.ts'
import { testBlog, type TestBlog } from '../../testing/database.ts'
import { compileQuery } from './compile-query.ts'
import { runQuery } from './run-query.ts'

let test: TestBlog
beforeAll(async () => (test = await testBlog()))
afterAll(() => test.close())

async function rows(query: Query): Promise<readonly object[]> {
  const read = readMeaning(query)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { meaning } = read
  const result = await runQuery(test.blog.pool, {
    name: 'any',
    meaning,
    compiled: compileQuery(test.database, meaning, 'reader', test.blog.site.definition),
    parameters: {},
    page: { number: 1 },
  })
  return result.rows
}
const dependences = async (query: Query) =>
  (await rows(query)).map((row) => provenanceOf(row)?.dependence ?? NOTHING)

it('a row with a number of published posts changes with time, because scheduled posts become due', async () => {
  for (const count of ['postCount', 'postCountWithin']) {
    const found = await dependences({ from: 'categories', with: [count], take: 'all' })
    expect(found.length).toBeGreaterThan(0)
    for (const { sets, timed } of found)
      expect([timed, [...sets.keys()].every((one) => one.startsWith('posts of category'))]).toEqual([
        true,
        true,
      ])
  }
})

it('a row without a number does not change with time', async () => {
  for (const { rows, sets, timed } of await dependences({ from: 'categories', take: 'all' }))
    expect([timed, rows.size, sets.size]).toEqual([false, 1, 0])
})

it('a post depends on itself, its related rows and its comments, and not on time', async () => {
  const query: Query = {
    from: 'posts',
    with: ['category', 'author', 'tags', 'commentCount'],
    where: ['published'],
    take: 'all',
  }
  const all = await rows(query)
  for (const row of all as {
    id: number
    category: { id: number } | null
    author: { id: number } | null
    tags: { id: number }[]
  }[]) {
    const { rows, sets, timed } = provenanceOf(row)?.dependence ?? NOTHING
    expect([...rows.keys()].toSorted()).toEqual(
      [
        `posts:${row.id}`,
        ...(row.category ? [`categories:${row.category.id}`] : []),
        ...(row.author ? [`authors:${row.author.id}`] : []),
        ...row.tags.map(({ id }) => `tags:${id}`),
      ].toSorted(),
    )
    expect([[...sets.keys()], timed]).toEqual([[`comments of post ${row.id}`], false])
  }
})
