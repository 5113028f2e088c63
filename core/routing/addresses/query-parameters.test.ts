// Query parameters are read by their declared type or treated as absent. No query string causes an error.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { PARAMETER_TYPES } from '../../shapes/schemas.ts'
import { readQueryParameters } from './query-parameters.ts'

const one = (type: (typeof PARAMETER_TYPES)[number], query: string) => {
  const [found] = readQueryParameters({ q: type }, new URLSearchParams(query))
  return [found?.value, found?.note]
}

describe('readQueryParameters', () => {
  it.each([
    ['slug', 'q=wheels', ['wheels', null]],
    ['slug', 'q=Wheels', [null, 'not lower-case letters, digits and single hyphens, treated as absent']],
    ['text', 'q=%C3%A4+b', ['ä b', null]],
    ['text', 'q=++a++', ['a', null]],
    ['integer', 'q=12', [12, null]],
    ['integer', 'q=12.5', [null, expect.stringContaining('treated as absent')]],
    ['integer', 'q=99999999999999999999', [null, expect.stringContaining('treated as absent')]],
    ['month', 'q=13', [null, 'not a month from 1 to 12, treated as absent']],
    ['text', '', [null, 'absent']],
    ['text', 'q=', [null, 'empty, treated as absent']],
    ['text', 'q=a&q=b', ['a', 'given 2 times; the first is used']],
    ['text', 'q=a%00b', [null, 'contains an invalid character, treated as absent']],
    ['text', `q=${'a'.repeat(501)}`, [null, 'longer than 500 characters, treated as absent']],
    // WHATWG URL §5.1: invalid UTF-8 is decoded as U+FFFD.
    ['text', 'q=%FF', ['\uFFFD', null]],
  ] as const)('%s in ?%s', (type, query, expected) => expect(one(type, query)).toEqual(expected))
  it('gives queries a value of the declared type, or none, whatever was sent', () => {
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
  it('ignores parameters that are not declared', () => {
    expect(readQueryParameters({}, new URLSearchParams('q=1'))).toEqual([])
  })
})
