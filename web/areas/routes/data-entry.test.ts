// The queries of a route as its form edits them.
import { describe, expect, it } from 'vitest'
import type { QuerySummary } from '../../../contract/queries.ts'
import { dataEntry, dataName, missingParameters, proposedQuery } from './data-entry.ts'

const query = (name: string, ...parameters: [name: string, optional?: boolean][]): QuerySummary => ({
  name,
  parameters: parameters.map(([one, optional = false]) => ({
    name: one,
    field: one,
    type: 'text',
    optional,
  })),
  from: 'posts',
  take: 'all',
  sentence: '',
  version: 1,
  uses: [],
})

describe('the proposed query', () => {
  const byTag = query('by-tag', ['tag'])
  const latest = query('latest')
  const search = query('search', ['words', true])
  it('is the first whose required parameters the address has', () => {
    expect(proposedQuery([byTag, latest], {}, [])?.name).toBe('latest')
    expect(proposedQuery([byTag, latest], {}, ['tag'])?.name).toBe('by-tag')
    expect(proposedQuery([search], {}, [])?.name).toBe('search')
  })
  it('is one that the route does not use yet, if there is one', () => {
    expect(proposedQuery([latest, search], { posts: 'latest' }, [])?.name).toBe('search')
    expect(proposedQuery([latest], { posts: { query: 'latest' } }, [])?.name).toBe('latest')
  })
  it('does not exist if no query fits', () => {
    expect(proposedQuery([byTag], {}, ['slug'])).toBeUndefined()
  })
})

it('a parameter is missing if neither the address nor `with` has it and it is required', () => {
  const one = query('related', ['post'], ['tag', true])
  expect(missingParameters(one, 'related', [])).toEqual(['post'])
  expect(missingParameters(one, 'related', ['post'])).toEqual([])
  expect(missingParameters(one, { query: 'related', with: { post: 'post.id' } }, [])).toEqual([])
  expect(missingParameters(undefined, 'related', [])).toEqual([])
})

it('an entry without values is only the name of its query', () => {
  expect(dataEntry('latest', { tag: ' ' })).toBe('latest')
  expect(dataEntry('by-tag', { tag: '"tools"', other: '' })).toEqual({
    query: 'by-tag',
    with: { tag: '"tools"' },
  })
})

it('data is named after its query', () => {
  expect(dataName('all-posts-2', {})).toBe('allPosts2')
  expect(dataName('latest', { latest: 'latest', latest2: 'latest' })).toBe('latest3')
})
