import { describe, expect, it } from 'vitest'
import type { Query } from '../shapes/schemas.ts'
import { describeRanked } from './explaining/describe.ts'
import { givenMeaning, readMeaning } from './meaning.ts'
import { RANKED_MOST, rankedMost } from './ranked.ts'

const search = (more: Partial<Query>) => {
  const read = readMeaning({
    from: 'posts',
    where: ['published', { field: 'words', is: 'matches', to: ':q', when: 'given' }],
    order: ['-relevance', '-publishedAt'],
    take: 'pages',
    ...more,
  })
  if (!read.ok) throw new Error(JSON.stringify(read.problems))
  return read.meaning
}

describe('rankedMost', () => {
  it.each([1, 6, 7, 10, 33, 100])('is the largest whole number of pages of %d within the limit', (size) => {
    const most = rankedMost(search({ pages: { size } })) ?? 0
    expect(most % size).toBe(0)
    expect(most).toBeGreaterThan(RANKED_MOST - size)
    expect(most).toBeLessThanOrEqual(RANKED_MOST)
  })
  it('is at least the number of rows that are taken', () => {
    expect(rankedMost(search({ take: 'first 5' }))).toBe(RANKED_MOST)
    expect(rankedMost(search({ take: 'first 5' }))).toBeGreaterThanOrEqual(5)
  })
  it.each<[string, Partial<Query>]>([
    ['all rows are taken', { take: 'all' }],
    ['pages are by cursor', { pages: { size: 6, by: 'cursor' } }],
    ['relevance is not the first order key', { order: ['-publishedAt', '-relevance'], pages: { size: 6 } }],
    ['the least relevant come first', { order: ['relevance'], pages: { size: 6 } }],
  ])('ranks all matches if %s', (_, more) => expect(rankedMost(search(more))).toBeUndefined())
  it('is undefined if nothing is searched for', () => {
    const meaning = search({ pages: { size: 6 } })
    expect(rankedMost(givenMeaning(meaning, {}))).toBeUndefined()
    expect(rankedMost(givenMeaning(meaning, { q: 'x' }))).toBe(996)
  })
  it('is described if more rows match', () => {
    const meaning = search({ pages: { size: 6 } })
    expect(describeRanked(meaning, 996)).toBeNull()
    expect(describeRanked(meaning, 997)).toBe(
      'More than 996 rows match. The first 996, newest first, are ranked; the others follow in that order.',
    )
    expect(describeRanked(meaning, undefined)).toBeNull()
  })
})
