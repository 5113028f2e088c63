// What a query is tried with, in the workbench's address.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parameterTexts, queryAddress } from '../../shared/queries/query-address.ts'
import { readAsked, writeAsked, type Asked } from './asked.ts'

const USUAL: Asked = { parameters: {}, page: 1, as: 'reader', view: 'plan' }

describe('what is tried', () => {
  it('as usual leaves the address as it is', () => {
    const address = new URLSearchParams({ open: 'queries/all-posts.yaml', line: '3' })
    expect(writeAsked(address, USUAL).toString()).toBe(address.toString())
    expect(readAsked(address)).toEqual(USUAL)
  })

  it('is read back, whatever it is', () => {
    const text = fc.string({ unit: 'grapheme', maxLength: 100 }).filter((one) => one.isWellFormed())
    fc.assert(
      fc.property(
        fc.record({
          parameters: fc
            .dictionary(fc.stringMatching(/^[a-zA-Z]\w{0,20}$/), text, { maxKeys: 5, noNullPrototype: true })
            .map((one) => ({ ...one })),
          page: fc.integer({ min: 1, max: 1_000_000 }),
          as: fc.constantFrom('reader' as const, 'author' as const),
          view: fc.constantFrom('plan' as const, 'sql' as const, 'code' as const, 'growth' as const),
          cursor: fc.string({ minLength: 1, maxLength: 50 }),
        }),
        fc.boolean(),
        (asked, hasCursor) => {
          const { cursor, ...rest } = asked
          const wanted: Asked = hasCursor ? { ...rest, cursor } : rest
          const before = new URLSearchParams('open=queries/x.yaml&with.old=1&page=7&as=author&cursor=c')
          const address = writeAsked(before, wanted).toString()
          expect(readAsked(new URLSearchParams(address))).toEqual(wanted)
          expect(address).toContain('open=queries%2Fx.yaml')
        },
      ),
    )
  })

  it.each([
    ['page=0', USUAL],
    ['page=-1', USUAL],
    ['page=1e9', USUAL],
    ['page=1.5', USUAL],
    ['page=abc', USUAL],
    ['as=admin', USUAL],
    ['view=nothing', USUAL],
    ['with.=1', USUAL],
    [`with.${'n'.repeat(61)}=1`, USUAL],
    [`cursor=${'c'.repeat(4_001)}`, USUAL],
    [`with.q=${'x'.repeat(600)}`, { ...USUAL, parameters: { q: 'x'.repeat(500) } }],
    ['with.q=', { ...USUAL, parameters: { q: '' } }],
  ])('an address with %.40s', (address, asked) => {
    expect(readAsked(new URLSearchParams(address))).toEqual(asked)
  })
})

it('what a walk gave a query is tried at an address of its own', () => {
  const values = { category: 'bicycles', year: 2026, tags: ['a', 'b'], none: null }
  expect(parameterTexts(values)).toEqual({ category: 'bicycles', year: '2026', tags: '["a","b"]' })
  const address = queryAddress('queries/posts-in-category.yaml', { category: 'a&b=c', none: null }, 'author')
  expect(address).toBe('/queries?open=queries%2Fposts-in-category.yaml&with.category=a%26b%3Dc&as=author')
  expect(readAsked(new URLSearchParams(address.split('?')[1]))).toEqual({
    ...USUAL,
    parameters: { category: 'a&b=c' },
    as: 'author',
  })
})
