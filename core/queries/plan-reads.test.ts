// What queries read, as derived from their plans. `server/store/statements/plan-reads.test.ts` holds it against PostgreSQL.
import { expect, it } from 'vitest'
import type { Query } from '../shapes/schemas.ts'
import { readMeaning } from './meaning.ts'
import { planQuery } from './plan.ts'
import { readsOfPlan } from './plan-reads.ts'

const reads = (query: Query) => {
  const read = readMeaning(query)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  const { deciding, timed } = readsOfPlan(planQuery(read.meaning))
  return {
    own: [...deciding.own].sort(),
    related: Object.fromEntries([...deciding.related].map(([name, fields]) => [name, [...fields].sort()])),
    counts: [...deciding.counts],
    timed,
  }
}

it.each<[Query, Partial<ReturnType<typeof reads>>]>([
  [
    { from: 'posts', where: ['published'], take: 'all' },
    { own: ['id', 'publishedAt'], timed: true },
  ],
  [
    { from: 'comments', where: ['shown'], take: 'all' },
    { own: ['id', 'parentsShown', 'postId', 'state'], related: { post: ['publishedAt'] }, timed: true },
  ],
  [
    { from: 'posts', where: [{ field: 'category.slug', is: 'equal', to: ':c' }], take: 'all' },
    { own: ['categoryId', 'id'], related: { category: ['slug'] }, timed: false },
  ],
  [
    { from: 'posts', order: ['author.name', '-updatedAt'], take: 'all' },
    { own: ['authorId', 'id', 'updatedAt'], related: { author: ['name'] } },
  ],
  [
    { from: 'posts', where: [{ field: 'tags.slug', is: 'equal', to: ':t' }], take: 'all' },
    { own: ['id', 'tags'], related: { tags: ['slug'] } },
  ],
  [
    {
      from: 'posts',
      where: [{ field: 'words', is: 'matches', to: ':q' }],
      order: ['-relevance'],
      take: 'all',
    },
    { own: ['id', 'search', 'title'] },
  ],
  [
    { from: 'tags', order: ['-postCount'], take: 'all' },
    { own: ['id'], counts: ['postCount'], timed: true },
  ],
  [
    { from: 'posts', order: ['-commentCount'], take: 'all' },
    { counts: ['commentCount'], timed: false },
  ],
  [
    { from: 'posts', 'count-by': ['publishedYear', 'category.name'], take: 'all' },
    { own: ['categoryId', 'publishedAt'], related: { category: ['name'] } },
  ],
])('%j reads %j', (query, expected) => {
  expect(reads(query)).toMatchObject(expected)
})
