// The meaning of queries, its description, and the formatting of SQL.
import { describe, expect, it } from 'vitest'
import type { Query } from '../shapes/schemas.ts'
import { argumentValue, parameterNames } from './arguments.ts'
import { describeQuery } from './explaining/describe.ts'
import { formatSql } from './explaining/format-sql.ts'
import { readMeaning } from './meaning.ts'

const meaning = (query: Query) => {
  const result = readMeaning(query)
  if (!result.ok) throw new Error(JSON.stringify(result.problems))
  return result.meaning
}

describe('readMeaning', () => {
  it.each<[Query['order'], string[], boolean]>([
    [undefined, ['id'], true],
    [['-publishedAt'], ['-publishedAt', '-id'], true],
    [['title'], ['title', 'id'], true],
    [['-publishedAt', 'id'], ['-publishedAt', 'id'], false],
    [['slug'], ['slug'], false],
    [['category.slug'], ['category.slug', 'id'], true],
  ])('completes the order %j to %j', (order, expected, completed) => {
    const read = meaning({ from: 'posts', ...(order ? { order } : {}), take: 'all' })
    expect(read.order.map((one) => (one.descending ? `-${one.field}` : one.field))).toEqual(expected)
    expect(read.orderCompleted).toBe(completed)
  })

  it('orders by a count', () => {
    const read = meaning({ from: 'posts', order: ['-commentCount'], take: 'all' })
    expect(read.order).toEqual([
      { field: 'commentCount', descending: true },
      { field: 'id', descending: true },
    ])
  })

  it.each<[Query, string]>([
    [
      { from: 'posts', where: [{ field: 'title', is: 'set', to: 'x' }], take: 'all' },
      'query-value-unexpected',
    ],
    [{ from: 'posts', where: [{ field: 'title', is: 'in', to: 'x' }], take: 'all' }, 'query-in-needs-list'],
    [
      { from: 'posts', where: [{ field: 'wordCount', is: 'contains', to: 'x' }], take: 'all' },
      'query-contains-needs-text',
    ],
    [
      { from: 'posts', where: [{ field: 'html', is: 'equal', to: 'x' }], take: 'all' },
      'query-field-not-comparable',
    ],
    [{ from: 'posts', order: ['tags.name'], take: 'all' }, 'query-order-not-possible'],
    [{ from: 'posts', order: ['postCount'], take: 'all' }, 'query-field-unknown'],
    [
      { from: 'comments', where: [{ field: 'post.words', is: 'matches', to: 'x' }], take: 'all' },
      'query-field-unknown',
    ],
    [{ from: 'posts', take: 'all', empty: 'next-route' }, 'query-next-route-needs-one'],
  ])('%j is refused: %s', (query, code) => {
    const result = readMeaning(query)
    expect(result.ok ? [] : result.problems.map((one) => one.code)).toEqual([code])
  })
})

it.each<[Query, string]>([
  [
    { from: 'posts', where: ['published'], order: ['-publishedAt'], take: 'pages', pages: { size: 6 } },
    'published posts, newest first, 6 per page',
  ],
  [
    { from: 'posts', where: ['published', { field: 'slug', is: 'equal', to: ':slug' }], take: 'one' },
    'one published post whose slug is :slug',
  ],
  [
    { from: 'comments', where: ['shown'], order: ['createdAt'], take: 'all' },
    'all shown comments, oldest first',
  ],
  [
    { from: 'pages', where: ['in-navigation'], order: ['position'], take: 'all' },
    'all pages in the navigation, by position',
  ],
  [{ from: 'categories', order: ['name'], take: 'first 3' }, 'the first 3 categories, by name'],
])('%j is described as “%s”', (query, sentence) => {
  expect(describeQuery(meaning(query))).toBe(sentence)
})

it('arguments are paths into values or quoted texts', () => {
  const value = (name: string) => ({ post: { category: { slug: 'a' } } })[name]
  expect(argumentValue('post.category.slug', value)).toBe('a')
  expect(argumentValue('post.author.slug', value)).toBeUndefined()
  expect(argumentValue('post.constructor', value)).toBeUndefined()
  expect(argumentValue("'fixed'", value)).toBe('fixed')
  expect([parameterNames('post.slug'), parameterNames("'x.y'")]).toEqual([['post'], []])
})

it('formats SQL with one clause per line', () => {
  const sql =
    'SELECT "post"."id" AS "id", "post"."published_at" AS "publishedAt", (SELECT count(*) FROM comment c WHERE c.post_id = "post"."id") AS "commentCount" FROM "post" "post" LEFT JOIN "category" "category" ON "category"."id"="post"."category_id" WHERE post.published_at <= now() ORDER BY "post"."id" DESC LIMIT 6'
  expect(formatSql(sql)).toBe(
    'SELECT post.id, post.published_at AS publishedAt, (SELECT count(*) FROM comment c WHERE c.post_id = post.id) AS commentCount\nFROM post\nLEFT JOIN category ON category.id=post.category_id\nWHERE post.published_at <= now()\nORDER BY post.id DESC\nLIMIT 6',
  )
  expect(formatSql(sql, 1).split('\n')[0]).toBe('SELECT post.id, … 2 more')
})
