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

describe('how many matches are ranked', () => {
  it.each([1, 6, 7, 10, 33, 100])('a whole number of pages of %d, as many as fit', (size) => {
    const most = rankedMost(search({ pages: { size } })) ?? 0
    expect(most % size).toBe(0)
    expect(most).toBeGreaterThan(RANKED_MOST - size)
    expect(most).toBeLessThanOrEqual(RANKED_MOST)
  })
  it('at least all that are taken', () => {
    expect(rankedMost(search({ take: 'first 5' }))).toBe(RANKED_MOST)
    expect(rankedMost(search({ take: 'first 5' }))).toBeGreaterThanOrEqual(5)
  })
  it.each<[string, Partial<Query>]>([
    ['all of them are asked for', { take: 'all' }],
    ['a cursor says how well a row fits', { pages: { size: 6, by: 'cursor' } }],
    ['another order comes first', { order: ['-publishedAt', '-relevance'], pages: { size: 6 } }],
    ['the worst come first', { order: ['relevance'], pages: { size: 6 } }],
  ])('all, where %s', (_, more) => expect(rankedMost(search(more))).toBeUndefined())
  it('none where nothing is searched', () => {
    const meaning = search({ pages: { size: 6 } })
    expect(rankedMost(givenMeaning(meaning, {}))).toBeUndefined()
    expect(rankedMost(givenMeaning(meaning, { q: 'x' }))).toBe(996)
  })
  it('is said where more match', () => {
    const meaning = search({ pages: { size: 6 } })
    expect(describeRanked(meaning, 996)).toBeNull()
    expect(describeRanked(meaning, 997)).toBe(
      'more than 996 match: the first 996, newest first, are ranked, and the others follow in that order',
    )
    expect(describeRanked(meaning, undefined)).toBeNull()
  })
})
