// Rules are changed in the text of cache.yaml, and the rest of it stays.
import { describe, expect, it } from 'vitest'
import { withEdgeRule, withFragmentRule, withPageRule } from './edit-rules.ts'
import { readCacheRules } from './read-rules.ts'

describe('a rule', () => {
  it('is added to an empty text, changed and removed', () => {
    const added = withPageRule('', 'posts', { refresh: 'by-age', lifetime: '60s' })
    expect(added).toBe('pages:\n  posts: { refresh: by-age, lifetime: 60s }\n')
    const changed = withPageRule(added ?? '', 'posts', { refresh: 'both', lifetime: '1h' })
    expect(changed).toBe('pages:\n  posts: { refresh: both, lifetime: 1h }\n')
    expect(withPageRule(changed ?? '', 'posts', undefined)).toBe('')
    expect(withPageRule('', 'posts', undefined)).toBe('')
  })
  it('leaves comments and other rules as they are', () => {
    const text = '# Why: the archive is large.\npages:\n  archive: { refresh: both, lifetime: 1d } # a day\n'
    const changed = withFragmentRule(text, 'aside', 'by-age')
    expect(changed).toBe(`${text}fragments:\n  aside: { refresh: by-age }\n`)
    expect(readCacheRules(changed).problems).toEqual([])
    expect(withFragmentRule(changed ?? '', 'aside', 'both')).toBe(text)
  })
  it('of the edge cache is added, changed and removed', () => {
    const text = '# Why: the archive is large.\npages:\n  archive: { refresh: both, lifetime: 1d }\n'
    const added = withEdgeRule(text, '10m') ?? ''
    expect(added).toBe(`${text}edge: { lifetime: 10m }\n`)
    expect(withEdgeRule(added, '1h')).toBe(`${text}edge: { lifetime: 1h }\n`)
    expect(withEdgeRule(added, undefined)).toBe(text)
    expect(withEdgeRule(withEdgeRule('', '1d') ?? '', undefined)).toBe('')
  })
  it('is not added to what is not a mapping', () => {
    for (const text of ['- a\n', 'pages: [', 'text'])
      expect(withPageRule(text, 'posts', { refresh: 'on-change' })).toBeUndefined()
  })
})
