// Similar addresses.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { similarity, mostSimilar, typingErrors } from './nearest.ts'

it.each([
  // The textbook example of Levenshtein 1966 (from memory), and a transposition (Damerau 1964).
  ['kitten', 'sitting', 3],
  ['abuot', 'about', 1],
  ['', 'abc', 3],
  ['same', 'same', 0],
])('counts the typing errors from “%s” to “%s”: %i', (a, b, errors) => {
  expect(typingErrors(a, b)).toBe(errors)
})

it('counts the same number in both directions, and 0 only for equal texts', () => {
  const word = fc.string({ unit: fc.constantFrom('a', 'b', 'c'), maxLength: 6 })
  fc.assert(
    fc.property(word, word, (a, b) => {
      expect(typingErrors(a, b)).toBe(typingErrors(b, a))
      expect(typingErrors(a, b) === 0).toBe(a === b)
      expect(similarity(a, b)).toBeGreaterThanOrEqual(0)
      expect(similarity(a, b)).toBeLessThanOrEqual(1)
    }),
  )
})

it('returns the best match first, each path once, and no dissimilar paths', () => {
  const known = ['/posts', '/posts/zip-surgery', '/about', '/posts/zip-surgery', '/posts/a-zip-story'].map(
    (path) => ({ path }),
  )
  expect(mostSimilar('/post/zip-surgery', known, 3).map((one) => one.path)).toEqual([
    '/posts/zip-surgery',
    '/posts/a-zip-story',
  ])
  expect(mostSimilar('/Abuot', known, 3).map((one) => one.path)).toEqual(['/about'])
  expect(mostSimilar('/xyz', known, 3)).toEqual([])
})
