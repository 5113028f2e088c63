// How a query is run, in the workbench's address.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { parameterTexts, queryAddress } from '../../shared/queries/query-address.ts'
import { readSettings, writeSettings, type RunSettings } from './run-settings.ts'

const DEFAULTS: RunSettings = { parameters: {}, page: 1, as: 'reader', view: 'plan' }

describe('run settings', () => {
  it('leave the address as it is if they are the defaults', () => {
    const address = new URLSearchParams({ open: 'queries/all-posts.yaml', line: '3' })
    expect(writeSettings(address, DEFAULTS).toString()).toBe(address.toString())
    expect(readSettings(address)).toEqual(DEFAULTS)
  })

  it('are read back from the address that they are written to', () => {
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
        (settings, hasCursor) => {
          const { cursor, ...rest } = settings
          const wanted: RunSettings = hasCursor ? { ...rest, cursor } : rest
          const before = new URLSearchParams('open=queries/x.yaml&with.old=1&page=7&as=author&cursor=c')
          const address = writeSettings(before, wanted).toString()
          expect(readSettings(new URLSearchParams(address))).toEqual(wanted)
          expect(address).toContain('open=queries%2Fx.yaml')
        },
      ),
    )
  })

  it.each([
    ['page=0', DEFAULTS],
    ['page=-1', DEFAULTS],
    ['page=1e9', DEFAULTS],
    ['page=1.5', DEFAULTS],
    ['page=abc', DEFAULTS],
    ['as=admin', DEFAULTS],
    ['view=nothing', DEFAULTS],
    ['with.=1', DEFAULTS],
    [`with.${'n'.repeat(61)}=1`, DEFAULTS],
    [`cursor=${'c'.repeat(4_001)}`, DEFAULTS],
    [`with.q=${'x'.repeat(600)}`, { ...DEFAULTS, parameters: { q: 'x'.repeat(500) } }],
    ['with.q=', { ...DEFAULTS, parameters: { q: '' } }],
  ])('are read from %.40s', (address, settings) => {
    expect(readSettings(new URLSearchParams(address))).toEqual(settings)
  })
})

it('the parameters of a walk have an address in the Queries area', () => {
  const values = { category: 'bicycles', year: 2026, tags: ['a', 'b'], none: null }
  expect(parameterTexts(values)).toEqual({ category: 'bicycles', year: '2026', tags: '["a","b"]' })
  const address = queryAddress('queries/posts-in-category.yaml', { category: 'a&b=c', none: null }, 'author')
  expect(address).toBe('/queries?open=queries%2Fposts-in-category.yaml&with.category=a%26b%3Dc&as=author')
  expect(readSettings(new URLSearchParams(address.split('?')[1]))).toEqual({
    ...DEFAULTS,
    parameters: { category: 'a&b=c' },
    as: 'author',
  })
})
