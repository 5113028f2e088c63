// Addresses that look like another.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { alikeness, mostAlike, typingErrors } from './nearest.ts'

it.each([
  // Worked example of the distance (Levenshtein 1966), in every textbook, from memory; and one exchange (Damerau 1964).
  ['kitten', 'sitting', 3],
  ['abuot', 'about', 1],
  ['', 'abc', 3],
  ['same', 'same', 0],
])('from “%s” to “%s” it takes %i typing errors', (a, b, errors) => {
  expect(typingErrors(a, b)).toBe(errors)
})

it('errors are the same there and back, and none only for the same', () => {
  const word = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 6 })
  fc.assert(
    fc.property(word, word, (a, b) => {
      expect(typingErrors(a, b)).toBe(typingErrors(b, a))
      expect(typingErrors(a, b) === 0).toBe(a === b)
      expect(alikeness(a, b)).toBeGreaterThanOrEqual(0)
      expect(alikeness(a, b)).toBeLessThanOrEqual(1)
    }),
  )
})

it('the best comes first, each once, and nothing that is not alike', () => {
  const known = ['/posts', '/posts/zip-surgery', '/about', '/posts/zip-surgery', '/posts/a-zip-story'].map(
    (path) => ({ path }),
  )
  expect(mostAlike('/post/zip-surgery', known, 3).map((one) => one.path)).toEqual([
    '/posts/zip-surgery',
    '/posts/a-zip-story',
  ])
  expect(mostAlike('/Abuot', known, 3).map((one) => one.path)).toEqual(['/about'])
  expect(mostAlike('/xyz', known, 3)).toEqual([])
})
