// The text of a search: repeated words and what is beyond the limits are dropped, and the operators keep their meaning.
import { expect, it } from 'vitest'
import { searchText } from './search-text.ts'

it.each([
  ['  lamp   repair ', 'lamp repair'],
  [Array.from({ length: 120 }, () => 'lamp').join(' '), 'lamp'],
  ['Lamp lamp LAMP', 'Lamp'],
  ['lamp or moth or lamp', 'lamp or moth or'],
  ['"a b" "a c"', '"a b" "a c"'],
  ['-lamp lamp', '-lamp lamp'],
  [
    Array.from({ length: 40 }, (_, at) => `w${at}`).join(' '),
    Array.from({ length: 12 }, (_, at) => `w${at}`).join(' '),
  ],
  ['', ''],
])('%s', (text, expected) => expect(searchText(text)).toBe(expected))

it('never returns more than 200 characters, nor half a character', () => {
  expect(searchText('x'.repeat(5_000)).length).toBe(200)
  expect(searchText(`x${'🔧'.repeat(500)}`).isWellFormed()).toBe(true)
})
