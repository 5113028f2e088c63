// Conditions that change nothing are proven to: the proof is compared with the evaluation of random rows.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Condition } from '../shapes/schemas.ts'
import { idleConditions } from './idle-conditions.ts'

const paths = (where: Condition[], from: 'posts' | 'categories' = 'posts') =>
  idleConditions(from, where)?.idle.map((one) => JSON.stringify(one.path))
const words = (more: number): Condition => ({ field: 'wordCount', is: 'more', to: more })
const slug = (to: string, is: 'equal' | 'not-equal' = 'equal'): Condition => ({ field: 'slug', is, to })
const category: Condition = { field: 'category.slug', is: 'equal', to: ':category' }
const set = (field: string): Condition => ({ field, is: 'set' })

describe('a condition is idle', () => {
  it.each<[string, Condition[], string[]]>([
    ['if it is there twice', ['published', category, category], ['[1]']],
    ['if another implies it', ['published', words(300), words(200)], ['[2]']],
    ['if every row meets it', ['published', set('title')], ['[1]']],
    ['if a count is compared with zero', [{ field: 'wordCount', is: 'at-least', to: 0 }], ['[0]']],
    ['if a title is not blank', ['published', { field: 'title', is: 'not-equal', to: '' }], ['[1]']],
    ['if what is published has it', ['published', set('publishedAt')], ['[1]']],
    ['if a group has one that holds around it', ['published', { any: ['published', category] }], ['[1]']],
    ['in a group, if another one is wider', [{ any: [words(300), words(200)] }], ['[0,"any",0]']],
    ['if a group has everything', [{ any: [slug('a'), { not: slug('a') }] }], ['[0]']],
    ['if a value excludes others', [slug('a'), slug('b', 'not-equal')], ['[1]']],
    ['if a list has the value', [slug('a'), { field: 'slug', is: 'in', to: ['a', 'b'] }], ['[1]']],
    ['if a related row is known', [category, set('category.slug')], ['[1]']],
  ])('%s', (_, where, expected) => {
    expect(paths(where)).toEqual(expected)
  })
  it.each<[string, Condition[]]>([
    ['two parameters', [category, { field: 'category.slug', is: 'equal', to: ':other' }]],
    ['a range', [words(200), { field: 'wordCount', is: 'at-most', to: 300 }]],
    ['a draft that is dated', [set('publishedAt')]],
    [
      'two tags, which a post can have both',
      [
        { field: 'tags.slug', is: 'equal', to: 'a' },
        { field: 'tags.slug', is: 'equal', to: 'b' },
      ],
    ],
    ['a post without a category', [{ not: category }, set('category.slug')]],
    ['what may be empty in a group with everything', [{ any: [category, { not: category }] }]],
    [
      'a condition that may be skipped',
      ['published', { field: 'category.slug', is: 'equal', to: ':c', when: 'given' }],
    ],
    ['not equal, and set', [{ field: 'author.slug', is: 'not-equal', to: ':a' }, set('author.slug')]],
  ])('but not: %s', (_, where) => {
    expect(idleConditions('posts', where)).toEqual({ idle: [], isImpossible: false })
  })
  it('says why', () => {
    const because = (where: Condition[]) => idleConditions('posts', where)?.idle.at(-1)?.because
    expect(because(['published', set('title')])).toBe('Every row meets it.')
    expect(because([category, category])).toBe('The same condition is there twice.')
    expect(because([words(300), words(200)])).toBe(
      'Every row that meets “wordCount is more than 300” meets it.',
    )
  })
})

it('conditions that exclude each other are impossible, for every value of the parameters', () => {
  const isImpossible = (where: Condition[]) => idleConditions('posts', where)?.isImpossible
  expect(isImpossible([slug('a'), slug('b')])).toBe(true)
  expect(isImpossible([words(300), { field: 'wordCount', is: 'less', to: 300 }])).toBe(true)
  expect(isImpossible([category, { field: 'category.slug', is: 'not-equal', to: ':category' }])).toBe(true)
  expect(isImpossible(['published', { field: 'publishedAt', is: 'unset' }])).toBe(true)
  expect(isImpossible([words(300), { field: 'wordCount', is: 'less', to: 302 }])).toBe(false)
  expect(isImpossible([category, { field: 'category.slug', is: 'equal', to: ':other' }])).toBe(false)
})

it('a condition that was proven to be idle keeps the same random rows', () => {
  const rows = Array.from({ length: 12 }, (_, at) => ({ wordCount: at, slug: 'abc'[at % 3] ?? '' }))
  const plain: fc.Arbitrary<Condition> = fc.oneof(
    fc.record({
      field: fc.constant('wordCount'),
      is: fc.constantFrom('equal', 'not-equal', 'less', 'at-most', 'more', 'at-least'),
      to: fc.integer({ min: -1, max: 12 }),
    }),
    fc.record({
      field: fc.constant('slug'),
      is: fc.constantFrom('equal', 'not-equal'),
      to: fc.constantFrom('a', 'b', 'c'),
    }),
  )
  const condition: fc.Arbitrary<Condition> = fc.oneof(
    plain,
    fc.record({ any: fc.array(plain, { minLength: 1, maxLength: 2 }) }),
    fc.record({ not: plain }),
  )
  const meets = (row: (typeof rows)[number], one: Condition): boolean => {
    if (typeof one === 'string') return true
    if ('any' in one) return one.any.some((inner) => meets(row, inner))
    if ('all' in one) return one.all.every((inner) => meets(row, inner))
    if ('not' in one) return !meets(row, one.not)
    const value = row[one.field as 'slug' | 'wordCount']
    const to = one.to as string | number
    const results = {
      ...{ equal: value === to, 'not-equal': value !== to, less: value < to, 'at-most': value <= to },
      ...{ more: value > to, 'at-least': value >= to },
    }
    return results[one.is as keyof typeof results]
  }
  let found = 0
  fc.assert(
    fc.property(fc.array(condition, { minLength: 1, maxLength: 4 }), (where) => {
      const kept = (list: Condition[]) => rows.filter((row) => list.every((one) => meets(row, one)))
      const result = idleConditions('posts', where)
      if (result?.isImpossible === true) expect(kept(where)).toEqual([])
      for (const { path } of result?.idle ?? []) {
        const [index, group] = path
        if (group !== undefined) continue
        found++
        expect(kept(where.filter((_, at) => at !== index))).toEqual(kept(where))
      }
    }),
    { numRuns: 2_000 },
  )
  expect(found).toBeGreaterThan(100)
})
