// Rules are changed in the text of cache.yaml, and the rest of it stays.
import { describe, expect, it } from 'vitest'
import { withFragmentRule, withPageRule } from './edit-rules.ts'
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
  it('is not added to what is not a mapping', () => {
    for (const text of ['- a\n', 'pages: [', 'text'])
      expect(withPageRule(text, 'posts', { refresh: 'on-change' })).toBeUndefined()
  })
})
