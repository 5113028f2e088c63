// Hints for names that do not exist.
import { expect, it } from 'vitest'
import { suggestName } from './suggest-name.ts'

it.each<[string, string[], string]>([
  ['latest-post', ['all-posts', 'latest-posts'], 'Did you mean “latest-posts”?'],
  ['zz', ['home', 'posts'], 'Known: home, posts.'],
  ['pages/hime', ['pages/home', 'pages/post'], 'Did you mean “pages/home”?'],
  ['anything', [], 'There are none.'],
])('%s of %j', (wanted, known, hint) => {
  expect(suggestName(wanted, known)).toBe(hint)
})

it('lists twelve names at most', () => {
  const known = Array.from({ length: 13 }, (_, index) => `${index}`)
  expect(suggestName('x', known)).toBe('Known: 0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, ….')
})
