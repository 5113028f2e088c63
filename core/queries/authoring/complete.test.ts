// Completion while a query is written; “|” is the cursor. Every offered operator is then read as a query.
import { describe, expect, it } from 'vitest'
import { SOURCES } from '../../shapes/schemas.ts'
import { conditionChoices, countByChoices, operatorChoices, orderChoices, withChoices } from './choices.ts'
import { completeQuery } from './complete.ts'
import { findField } from '../fields.ts'
import { readMeaning } from '../meaning.ts'

const at = (marked: string) => {
  const place = marked.indexOf('|')
  const found = completeQuery(marked.replace('|', ''), place)
  return found && { word: marked.slice(found.from, place), values: found.choices.map((one) => one.value) }
}

describe('completion', () => {
  it.each([
    ['fr|', 'fr', ['from', 'with', 'where']],
    ['from: po|', 'po', ['posts', 'pages']],
    ['from: posts\nwith: [category, au|]', 'au', ['author', 'tags', 'commentCount']],
    ['from: posts\nwhere:\n  - pub|', 'pub', ['published']],
    ['from: posts\nwhere: [|', '', ['published']],
    ['from: posts\nwhere:\n  - { field: cat|', 'cat', ['category.slug', 'category.name', 'publishedAt']],
    ['from: posts\nwhere:\n  - { field: category.slug, is: |', '', ['equal', 'within', 'contains', 'set']],
    ['from: posts\nwhere:\n  - { field: words, is: |', '', ['matches']],
    ['from: posts\nwhere:\n  - { |', '', ['field', 'is', 'to', 'any']],
    ['from: posts\nwhere:\n  - { field: slug, is: equal, to: ":x", when: |', '', ['given']],
    ['from: posts\norder: [-publ|', 'publ', ['publishedAt']],
    ['from: comments\norder: [|', '', ['createdAt', 'post.title']],
    ['from: posts\ncount-by: [publishedYear, |', '', ['publishedMonth', 'tags.slug']],
    ['from: posts\ntake: |', '', ['one', 'first 5', 'pages', 'all']],
    ['from: posts\ntake: pages\npages: { size: 6, by: |', '', ['number', 'cursor']],
    ['from: posts\ntake: pages\npages: { |', '', ['size', 'by', 'count']],
    ['from: posts\nempty: |', '', ['not-found', 'next-route', 'allow']],
  ])('%j', (marked, word, some) => {
    const found = at(marked)
    expect(found?.word).toBe(word)
    expect(found?.values).toEqual(expect.arrayContaining(some))
  })
  it.each([
    '# from: po|',
    'from: nothing\nwith: [|',
    'from: posts\nwhere:\n  - { field: slug, is: equal, to: |',
  ])('%j: nothing', (marked) => {
    expect(at(marked)).toBe(undefined)
  })
  it('offers no “contains” for numbers, no order for booleans, and no “set” for fields that always have a value', () => {
    const of = (field: string) => operatorChoices('posts', field).map((one) => one.value)
    expect(of('wordCount')).not.toContain('contains')
    expect(of('commentsOpen')).toEqual(['equal', 'not-equal', 'in'])
    expect(of('title')).not.toContain('set')
    expect(of('publishedAt')).toContain('unset')
  })
})

describe('every offered choice is valid', () => {
  const valueFor = (type: string | undefined, operator: string): unknown => {
    const one = { integer: 1, boolean: true, time: '2026-01-01T00:00Z' }[type ?? ''] ?? 'x'
    return operator === 'in' ? [one] : one
  }
  it.each(SOURCES)('%s', (from) => {
    const problems: unknown[] = []
    const tryIt = (query: object) => {
      const read = readMeaning({ from, take: 'all', ...query })
      if (!read.ok) problems.push([query, read.problems])
    }
    for (const { value: field } of conditionChoices(from))
      for (const { value: is } of operatorChoices(from, field)) {
        const to = valueFor(findField(from, field)?.field.type, is)
        tryIt({ where: [is === 'set' || is === 'unset' ? { field, is } : { field, is, to }] })
      }
    for (const { value } of orderChoices(from))
      if (value !== 'relevance') tryIt({ order: [value, `-${value}`] })
    for (const { value } of countByChoices(from)) tryIt({ 'count-by': [value] })
    tryIt({ with: withChoices(from).map((one) => one.value) })
    expect(problems).toEqual([])
  })
})
