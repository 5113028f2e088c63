// Matching with typed parameters, the reasons why routes did not match, and building as its reverse.
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
    if (!result.ok) throw new Error(result.error.message)
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

  it('names the methods that would be answered (RFC 9110 §15.5.6)', () => {
    expect(matchRoute(new RouteTable(BLOG.slice(2, 4)), 'DELETE', '/posts/a')).toEqual({
      outcome: 'method-not-allowed',
      allow: ['GET', 'HEAD', 'OPTIONS'],
    })
    expect(matchRoute(new RouteTable(BLOG.slice(2, 4)), 'GET', '/posts/a/comments')).toEqual({
      outcome: 'method-not-allowed',
      allow: ['POST', 'OPTIONS'],
    })
  })

  it('goes on after “else the next route”', () => {
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
  it('says where each candidate parts from the address', () => {
    expect(why('/category/electrical')).toEqual({
      home: '“category/electrical” is left over',
      all: '“electrical” ≠ “all”',
      post: '“category” ≠ “posts”',
      'add-comment': '“category” ≠ “posts”',
      category: null,
    })
    expect(why('/2026/13')['month']).toBe('“13” is not a month, 1 to 12')
    expect(why('/2026/10/x')['month']).toBe('“/x” is left over')
    expect(why('/posts/Not_A_Slug')['post']).toBe(
      '“Not_A_Slug” is not lower-case letters, digits and single hyphens',
    )
    expect(why('/posts/a/comments')['add-comment']).toBe('answers POST only')
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
  it('says which parameter is missing or ill-typed', () => {
    if (!post || !month) throw new Error('no route')
    expect(buildPath(post, {})).toEqual({ ok: false, message: 'route “post” needs “slug”, which is missing' })
    expect(buildPath(post, { slug: 'A/B' })).toMatchObject({ ok: false })
    expect(buildPath(month, { year: 2026, month: 13 })).toEqual({
      ok: false,
      message: '“13” is not a month, 1 to 12',
    })
  })

  it('builds no address that the policy would lead elsewhere', () => {
    const [tag] = routes(page('tag', '/tags/:tag'))
    if (!tag || !post) throw new Error('no route')
    expect(buildPath(tag, { tag: 'DIY' })).toEqual({
      ok: false,
      message:
        '“/tags/DIY” would be redirected (in lower-case letters), so this route would not get its parameters',
    })
    expect(buildPath(tag, { tag: '..' })).toMatchObject({ ok: false })
    const slash = { letterCase: 'keep', trailingSlash: 'with' } as const
    expect(buildPath(tag, { tag: 'DIY' }, slash)).toEqual({ ok: true, path: '/tags/DIY/' })
  })

  it('is the reverse of matching: what it builds, the route matches with the same values', () => {
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
        if (!built?.ok) throw new Error(built?.message)
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
