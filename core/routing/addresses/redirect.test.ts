// Targets of redirect routes.
import { expect, it } from 'vitest'
import { DEFAULT_POLICY } from './address.ts'
import { redirectParameters, redirectTarget } from './redirect.ts'

it.each([
  ['/posts/:slug', 'a%20b', '', '/posts/a%20b'],
  ['/posts/:slug', 'a', 'page=2', '/posts/a?page=2'],
  ['/posts?from=:slug', 'a', 'page=2', '/posts?from=a'],
  ['/posts/:slug#comments', 'a', 'x=1', '/posts/a?x=1#comments'],
  ['/posts/:slug/', 'A', '', '/posts/a'],
  ['https://old.example:8080/:slug', 'a', '', 'https://old.example:8080/a'],
  ['/somewhere', 'a', '', '/somewhere'],
])('%s with “%s” and “%s” is %s', (to, slug, query, expected) => {
  expect(redirectTarget(to, [{ name: 'slug', raw: slug }], query, DEFAULT_POLICY)).toBe(expected)
})

it('finds the parameters in a target and does not mistake a port for one', () => {
  expect(redirectParameters('/a/:b/:c_d')).toEqual(['b', 'c_d'])
  expect(redirectParameters('https://x.example:8080/:a')).toEqual(['a'])
})
