// The table omits only routes that cannot match.
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { compilePattern } from '../patterns/pattern.ts'
import type { CompiledRoute } from './compiled-route.ts'
import { RouteTable } from './table.ts'

function table(...paths: string[]): RouteTable {
  return new RouteTable(
    paths.map((path, index): CompiledRoute => {
      const result = compilePattern(path)
      if (!result.ok) throw new Error(result.error.reason)
      return {
        route: { name: `r${index}`, path, template: 'pages/p' },
        pattern: result.pattern,
        method: 'GET',
        shared: new Set(),
      }
    }),
  )
}

it.each([
  ['/', [0, 5, 6]],
  ['/posts', [1, 5, 6]],
  ['/posts/a', [2, 5, 6]],
  ['/posts/archive', [2, 3, 5, 6]],
  ['/tags/a', [5, 6]],
  ['/a/b/c/d', [5, 6]],
  ['/x/y/z', [4, 5, 6]],
])('%s has the candidates %j', (path, expected) => {
  const routes = table('/', '/posts', '/posts/:slug', '/posts/archive', '/:a/:b/:c', '/*', '{/:lang}?/*')
  expect(routes.candidates(path)).toEqual(expected)
})

it('includes every route that matches among the candidates, in order', () => {
  const piece = fc.constantFrom(
    'a',
    'b',
    ':x',
    ':y',
    ':z?',
    '*',
    'a-:w',
    '(a|b)',
    '{c}?',
    '{/:v}*',
    'b:u(\\d+)',
  )
  const pattern = fc
    .array(piece, { minLength: 0, maxLength: 4 })
    .map((parts) => `/${parts.join('/')}`)
    .filter((text) => compilePattern(text).ok)
  const path = fc
    .array(fc.constantFrom('a', 'b', 'c', 'a-b', 'b12', 'other'), { maxLength: 5 })
    .map((parts) => `/${parts.join('/')}`)
  fc.assert(
    fc.property(
      fc.array(pattern, { minLength: 1, maxLength: 8 }),
      fc.array(path, { minLength: 1, maxLength: 10 }),
      (patterns, paths) => {
        const routes = table(...patterns)
        for (const one of paths) {
          const matching = routes.routes.flatMap((route, index) =>
            route.pattern.regexp.test(one) ? [index] : [],
          )
          const candidates = routes.candidates(one)
          expect([...candidates].sort((a, b) => a - b)).toEqual(candidates)
          for (const index of matching) expect(candidates, `${patterns.join(' ')} ${one}`).toContain(index)
        }
      },
    ),
    { numRuns: 1_000 },
  )
})
