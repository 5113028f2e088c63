// cache.yaml: what is read, and what is refused with its place.
import CachePolicy from 'http-cache-semantics'
import { describe, expect, it } from 'vitest'
import { readCacheRules } from './read-rules.ts'
import { cacheControl, DEFAULT_PAGE_RULE, fragmentRefresh, LONGEST_KEPT, pageRule, stalest } from './rules.ts'

const problems = (text: string) =>
  readCacheRules(text).problems.map(({ code, path, line }) => [code, path, line])

describe('cache.yaml', () => {
  it('may be missing or empty: everything is refreshed on change', () => {
    for (const text of [undefined, '', ' \n']) {
      const { value, problems } = readCacheRules(text)
      expect(problems).toEqual([])
      expect(pageRule(value, 'posts')).toEqual(DEFAULT_PAGE_RULE)
      expect(fragmentRefresh(value, 'aside')).toBe('both')
    }
    // A week has 604,800 seconds (common practice).
    expect(LONGEST_KEPT).toBe(604_800 * 1_000)
  })

  it('gives routes and fragments their rules', () => {
    const { value, problems } = readCacheRules(
      'pages:\n  posts: { refresh: by-age, lifetime: 10m, stale-while-revalidate: 30s, stale-if-error: 1d }\n' +
        '  post: { refresh: both, lifetime: 366d }\nfragments:\n  aside: { refresh: by-age }\n',
    )
    expect(problems).toEqual([])
    const posts = pageRule(value, 'posts')
    expect(posts).toEqual({
      refresh: 'by-age',
      lifetime: 600_000,
      staleWhileRevalidate: 30_000,
      staleIfError: 86_400_000,
    })
    expect([
      stalest(posts),
      stalest(pageRule(value, 'post')),
      stalest(pageRule(value, 'constructor')),
    ]).toEqual([630_000, 0, 0])
    expect([fragmentRefresh(value, 'aside'), fragmentRefresh(value, 'toString')]).toEqual(['by-age', 'both'])
  })

  it.each([
    ['pages:\n  posts: { refresh: by-age }', 'cache-lifetime-missing', '/pages/posts/refresh'],
    ['pages:\n  posts: { refresh: both }', 'cache-lifetime-missing', '/pages/posts/refresh'],
    ['pages:\n  posts: { lifetime: 1h }', 'cache-age-unused', '/pages/posts/lifetime'],
    [
      'pages:\n  posts: { refresh: on-change, stale-if-error: 1h }',
      'cache-age-unused',
      '/pages/posts/stale-if-error',
    ],
    ['pages:\n  posts: { refresh: by-age, lifetime: 0s }', 'cache-lifetime-invalid', '/pages/posts/lifetime'],
    ['pages:\n  posts: { refresh: both, lifetime: 367d }', 'cache-lifetime-invalid', '/pages/posts/lifetime'],
    [
      'pages:\n  posts: { refresh: both, lifetime: 1h, stale-while-revalidate: 400d }',
      'cache-lifetime-invalid',
      '/pages/posts/stale-while-revalidate',
    ],
    ['edge:\n  lifetime: 0s', 'cache-edge-lifetime-invalid', '/edge/lifetime'],
    ['edge:\n  lifetime: 367d', 'cache-edge-lifetime-invalid', '/edge/lifetime'],
  ])('refuses %j: %s', (text, code, path) => {
    expect(problems(text)).toEqual([[code, path, 2]])
  })

  it('refuses unknown keys, modes and times with their lines', () => {
    for (const text of [
      'page: {}',
      'pages: { posts: { refresh: never } }',
      'pages: { posts: { refresh: both, lifetime: 1 hour } }',
      'fragments: { aside: { lifetime: 1h } }',
    ])
      expect(
        readCacheRules(text).problems.every((one) => one.line === 1),
        text,
      ).toBe(true)
  })
})

describe('Cache-Control', () => {
  const policy = (header: string) =>
    new CachePolicy(
      { url: '/', method: 'GET', headers: {} },
      { status: 200, headers: { 'cache-control': header, date: new Date().toUTCString() } },
      { shared: true },
    )
  it('RFC 5861 §3.1: a page that is fresh for 600 s, and may be served for 30 s more', () => {
    const header = cacheControl({
      refresh: 'by-age',
      lifetime: 600_000,
      staleWhileRevalidate: 30_000,
      staleIfError: 0,
    })
    expect(header).toBe('public, max-age=600, stale-while-revalidate=30')
    expect([policy(header).storable(), policy(header).maxAge()]).toEqual([true, 600])
  })
  it('RFC 5861 §4.1: a page that may be served for 1,200 s if it fails', () => {
    const header = cacheControl({
      refresh: 'by-age',
      lifetime: 600_000,
      staleWhileRevalidate: 0,
      staleIfError: 1_200_000,
    })
    expect(header).toBe('public, max-age=600, stale-if-error=1200')
    const failed = { status: 500, headers: {} }
    const again = policy(header).revalidatedPolicy({ url: '/', method: 'GET', headers: {} }, failed)
    expect([again.modified, again.policy.maxAge()]).toEqual([false, 600])
  })
  it('what is refreshed on change is validated for each use', () => {
    for (const refresh of ['on-change', 'both'] as const) {
      const header = cacheControl({ ...DEFAULT_PAGE_RULE, refresh, lifetime: 600_000 })
      expect([policy(header).storable(), policy(header).maxAge()]).toEqual([true, 0])
      expect(policy(header).satisfiesWithoutRevalidation({ url: '/', method: 'GET', headers: {} })).toBe(
        false,
      )
    }
  })
})
