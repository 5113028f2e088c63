// What a change of a row purges.
import { describe, expect, it } from 'vitest'
import { readMeaning, type QueryMeaning } from '../queries/meaning.ts'
import type { Query } from '../shapes/schemas.ts'
import { purgeTags, type Change } from './purge.ts'

const meaning = (query: Query): QueryMeaning => {
  const read = readMeaning(query)
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.meaning
}
const tags = (change: Partial<Change>, ...queries: QueryMeaning[]) =>
  purgeTags({ source: 'posts', id: 7, before: {}, after: {}, ...change }, queries).map((one) => one.tag)

const listing = (more: Partial<Query>) => meaning({ from: 'posts', take: 'all', ...more })

describe('purgeTags', () => {
  it('purges the row and all listings when a row is created or deleted', () => {
    expect(tags({ before: null, after: { title: 'A' } })).toEqual(['post:7', 'source:posts'])
    expect(tags({ before: { title: 'A' }, after: null })).toEqual(['post:7', 'source:posts'])
  })

  it('purges only the row when no query decides by what has changed', () => {
    expect(
      tags({ before: { title: 'A' }, after: { title: 'B' } }, listing({ order: ['-publishedAt'] })),
    ).toEqual(['post:7'])
    expect(tags({ before: { title: 'A' }, after: { title: 'A' } })).toEqual(['post:7'])
  })

  it.each<[string, object, object, Partial<Query>]>([
    [
      'a condition reads',
      { title: 'A' },
      { title: 'B' },
      { where: [{ field: 'title', is: 'equal', to: 'A' }] },
    ],
    [
      'a negated condition in a group reads',
      { wordCount: 1 },
      { wordCount: 2 },
      { where: [{ any: [{ not: { field: 'wordCount', is: 'more', to: 1 } }] }] },
    ],
    ['the order reads', { title: 'A' }, { title: 'B' }, { order: ['title'] }],
    ['a named condition reads', { publishedAt: null }, { publishedAt: '2026-01-01' }, {}],
    ['a part of a time reads', { updatedAt: 1 }, { updatedAt: 2 }, { order: ['-updatedAt'] }],
    ['a reference is', { categoryId: 1 }, { categoryId: 2 }, {}],
    ['tags are', { tagIds: [1] }, { tagIds: [1, 2] }, {}],
  ])('purges listings when %s what has changed', (_, before, after, query) => {
    expect(tags({ before: { ...before }, after: { ...after } }, listing(query))).toContain('source:posts')
  })

  it('purges listings of posts that filter or order by a field of a related row', () => {
    const byCategory = listing({ where: [{ field: 'category.slug', is: 'equal', to: ':category' }] })
    const change = { source: 'categories', id: 3, before: { slug: 'a' }, after: { slug: 'b' } } as const
    expect(tags(change, byCategory)).toEqual(['category:3', 'source:categories'])
    expect(tags({ ...change, before: { about: 'a' }, after: { about: 'b' } }, byCategory)).toEqual([
      'category:3',
    ])
  })

  it.each<[string, object | null, object | null]>([
    ['is added', null, { state: 'shown' }],
    ['is deleted', { state: 'shown' }, null],
    ['is shown', { state: 'waiting' }, { state: 'shown' }],
    ['is hidden', { state: 'shown' }, { state: 'spam' }],
  ])('purges the comments of a post when one of them %s', (_, before, after) => {
    const change = {
      source: 'comments',
      id: 9,
      before,
      after,
      counted: [{ source: 'posts', id: 7 }],
    } as Change
    expect(tags(change)).toContain('post:7/comments')
  })

  it('keeps the comments of a post when only the text of one of them changes', () => {
    const change = {
      source: 'comments',
      id: 9,
      before: { text: 'a' },
      after: { text: 'b' },
      counted: [{ source: 'posts', id: 7 }],
    } as Change
    expect(tags(change)).toEqual(['comment:9'])
  })
})
