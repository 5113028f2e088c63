// Matching with typed parameters, reasons why routes do not match, and building as the reverse of matching.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Route } from '../../shapes/schemas.ts'
import { buildPath } from './build.ts'
import { RouteTable } from './table.ts'
import { explainMatch, matchRoute } from './match.ts'
import { compileRoute, type CompiledRoute } from './compiled-route.ts'

function routes(...definitions: Route[]): CompiledRoute[] {
  return definitions.map((route) => {
    const result = compileRoute(route)
    if (!result.ok) throw new Error(result.error.reason)
    return result.compiled
  })
}
const page = (name: string, path: string, params: Route['params'] = {}): Route => ({
  name,
  path,
  params,
  template: 'pages/any',
})

const BLOG = routes(
  page('home', '/'),
  page('all', '/category/all'),
  page('post', '/posts/:slug', { slug: 'slug' }),
  {
    name: 'add-comment',
    path: '/posts/:slug/comments',
    params: { slug: 'slug' },
    action: 'add-comment',
    then: 'post',
  },
  page('category', '/category/:category', { category: 'slug' }),
  page('month', '/:year/:month', { year: 'year', month: 'month' }),
  page('page', '/:page', { page: 'path' }),
)

const ask = (method: string, path: string) => {
  const match = matchRoute(new RouteTable(BLOG), method, path)
  return match.outcome === 'matched'
    ? [match.route.route.name, ...match.parameters.map((one) => one.value)]
    : match.outcome
}

describe('matchRoute', () => {
  it.each([
    ['GET', '/', ['home']],
    ['HEAD', '/', ['home']],
    ['GET', '/posts/truing-a-wheel', ['post', 'truing-a-wheel']],
    ['GET', '/category/all', ['all']],
    ['GET', '/category/electrical', ['category', 'electrical']],
    ['GET', '/2026/11', ['month', 2026, 11]],
    ['GET', '/2026/13', ['page', '2026/13']],
    ['GET', '/about/people', ['page', 'about/people']],
    ['POST', '/posts/a/comments', ['add-comment', 'a']],
    ['POST', '/', 'method-not-allowed'],
    ['GET', '//', 'not-found'],
  ])('%s %s', (method, path, expected) => {
    expect(ask(method, path)).toEqual(expected)
  })

  it('lists the allowed methods (RFC 9110 §15.5.6)', () => {
    expect(matchRoute(new RouteTable(BLOG.slice(2, 4)), 'DELETE', '/posts/a')).toEqual({
      outcome: 'method-not-allowed',
      allow: ['GET', 'HEAD', 'OPTIONS'],
    })
    expect(matchRoute(new RouteTable(BLOG.slice(2, 4)), 'GET', '/posts/a/comments')).toEqual({
      outcome: 'method-not-allowed',
      allow: ['POST', 'OPTIONS'],
    })
  })

  it('continues after a route that passes the request on', () => {
    const table = new RouteTable(BLOG)
    const first = matchRoute(table, 'GET', '/2026/11')
    expect(
      first.outcome === 'matched' && matchRoute(table, 'GET', '/2026/11', first.index + 1),
    ).toMatchObject({ outcome: 'matched', route: { route: { name: 'page' } } })
  })
})

describe('explainMatch', () => {
  const why = (path: string) => {
    const table = new RouteTable(BLOG)
    const match = matchRoute(table, 'GET', path)
    return Object.fromEntries(explainMatch(table, 'GET', path, match).map((one) => [one.route, one.reason]))
  }
  it('gives the first mismatch of each candidate', () => {
    expect(why('/category/electrical')).toEqual({
      home: '“category/electrical” is left over',
      all: '“electrical” ≠ “all”',
      post: '“category” ≠ “posts”',
      'add-comment': '“category” ≠ “posts”',
      category: null,
    })
    expect(why('/2026/13')['month']).toBe('“13” is not a month from 1 to 12')
    expect(why('/2026/10/x')['month']).toBe('“/x” is left over')
    expect(why('/posts/Not_A_Slug')['post']).toBe(
      '“Not_A_Slug” is not lower-case letters, digits and single hyphens',
    )
    expect(why('/posts/a/comments')['add-comment']).toBe('it answers only POST')
  })
})

describe('buildPath', () => {
  const [, , post, , , month, anyPage] = BLOG
  it.each([
    [post, { slug: 'a-b' }, '/posts/a-b'],
    [month, { year: 2026, month: 3 }, '/2026/3'],
    [anyPage, { page: 'about/people' }, '/about/people'],
    [anyPage, { page: 'caf\u00e9 & more' }, '/caf%C3%A9%20&%20more'],
  ])('%#', (route, parameters, path) => {
    if (!route) throw new Error('no route')
    expect(buildPath(route, parameters)).toEqual({ ok: true, path })
  })
  it('fails if a parameter is missing or does not match', () => {
    if (!post || !month) throw new Error('no route')
    expect(buildPath(post, {})).toMatchObject({ ok: false, problem: { code: 'address-parameter-missing' } })
    for (const built of [buildPath(post, { slug: 'A/B' }), buildPath(month, { year: 2026, month: 13 })])
      expect(built).toMatchObject({ ok: false, problem: { code: 'address-parameter-mismatch' } })
    expect(buildPath(post, { slug: '\ud800' })).toMatchObject({
      ok: false,
      problem: { code: 'address-parameter-malformed' },
    })
  })

  it('does not build an address that the policy would redirect', () => {
    const [tag] = routes(page('tag', '/tags/:tag'))
    if (!tag || !post) throw new Error('no route')
    for (const value of ['DIY', '..'])
      expect(buildPath(tag, { tag: value })).toMatchObject({
        ok: false,
        problem: { code: 'address-not-canonical' },
      })
    const slash = { letterCase: 'keep', trailingSlash: 'with' } as const
    expect(buildPath(tag, { tag: 'DIY' }, slash)).toEqual({ ok: true, path: '/tags/DIY/' })
  })

  it('builds paths that the route matches with the same values', () => {
    const slug = fc.stringMatching(/^[a-z0-9]{1,8}(-[a-z0-9]{1,8}){0,2}$/)
    const text = fc
      .string({ unit: 'grapheme', minLength: 1, maxLength: 20 })
      .filter(
        (one) => one.isWellFormed() && !/^\.{1,2}$/.test(one) && !one.includes('/') && !one.includes('\0'),
      )
    const cases = fc.oneof(
      fc.record({ route: fc.constant(page('r', '/p/:slug', { slug: 'slug' })), values: fc.record({ slug }) }),
      fc.record({ route: fc.constant(page('r', '/t/:x/:y')), values: fc.record({ x: text, y: text }) }),
      fc.record({
        route: fc.constant(page('r', '/n/:i', { i: 'integer' })),
        values: fc.record({ i: fc.integer() }),
      }),
      fc.record({
        route: fc.constant(page('r', '/d/:year-:month', { year: 'year', month: 'month' })),
        values: fc.record({
          year: fc.integer({ min: 1000, max: 9999 }),
          month: fc.integer({ min: 1, max: 12 }),
        }),
      }),
      fc.record({
        route: fc.constant(page('r', '/:page', { page: 'path' })),
        values: fc.record({
          page: fc.array(slug, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
        }),
      }),
    )
    fc.assert(
      fc.property(cases, ({ route, values }) => {
        const compiled = routes(route)
        const [only] = compiled
        const built = only && buildPath(only, values, { letterCase: 'keep', trailingSlash: 'without' })
        if (!built?.ok) throw new Error(built?.problem.message)
        const match = matchRoute(new RouteTable(compiled), 'GET', built.path)
        expect(
          match.outcome === 'matched' &&
            Object.fromEntries(match.parameters.map((one) => [one.name, one.value])),
        ).toEqual(values)
      }),
      { numRuns: 500 },
    )
  })
})
