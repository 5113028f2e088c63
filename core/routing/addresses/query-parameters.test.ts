// What anybody may write behind “?”: read by the declared type, or as not given; never an error.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { PARAMETER_TYPES } from '../../shapes/schemas.ts'
import { readQueryParameters } from './query-parameters.ts'

const one = (type: (typeof PARAMETER_TYPES)[number], query: string) => {
  const [found] = readQueryParameters({ q: type }, query)
  return [found?.value, found?.note]
}

describe('a declared parameter', () => {
  it.each([
    ['slug', 'q=wheels', ['wheels', null]],
    ['slug', 'q=Wheels', [null, 'is not lower-case letters, digits and single hyphens, so not given']],
    ['text', 'q=%C3%A4+b', ['ä b', null]],
    ['text', 'q=++a++', ['a', null]],
    ['integer', 'q=12', [12, null]],
    ['integer', 'q=12.5', [null, expect.stringContaining('so not given')]],
    ['integer', 'q=99999999999999999999', [null, expect.stringContaining('so not given')]],
    ['month', 'q=13', [null, 'is not a month, 1 to 12, so not given']],
    ['text', '', [null, 'not given']],
    ['text', 'q=', [null, 'empty, so not given']],
    ['text', 'q=a&q=b', ['a', 'given 2 times, the first is taken']],
    ['text', 'q=a%00b', [null, 'has a character that no text can have, so not given']],
    ['text', `q=${'a'.repeat(501)}`, [null, 'longer than 500 characters, so not given']],
    // WHATWG URL §5.1: bytes that are no UTF-8 are read as U+FFFD.
    ['text', 'q=%FF', ['\uFFFD', null]],
  ] as const)('%s in ?%s', (type, query, expected) => expect(one(type, query)).toEqual(expected))
  it('whatever is written, what queries get is absent or of the type', () => {
    fc.assert(
      fc.property(fc.constantFrom(...PARAMETER_TYPES), fc.string({ unit: 'binary' }), (type, text) => {
        const [value] = one(type, `q=${encodeURIComponent(text.toWellFormed())}`)
        if (value === null) return
        expect(typeof value).toBe(/^(text|slug|uuid|path)$/.test(type) ? 'string' : 'number')
        if (typeof value === 'string') expect(value).not.toMatch(/\0/)
      }),
      { numRuns: 2_000 },
    )
  })
  it('of the query string of another route is none of its business', () => {
    expect(readQueryParameters({}, 'q=1')).toEqual([])
  })
})
