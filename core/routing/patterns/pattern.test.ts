// Patterns against the URL Pattern standard's reference implementation (urlpattern-polyfill), pathname part.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { URLPattern } from 'urlpattern-polyfill'
import { compilePattern } from './pattern.ts'

const PATTERNS = [
  '/',
  '/posts',
  '/posts/:slug',
  '/posts/:slug/comments',
  '/:year(\\d+)/:month(\\d+)',
  '/posts/:slug?',
  '/tags/:tag+',
  '/tags/:tag*',
  '/files/*',
  '/a{/b}?/c',
  '/a{/:b}*',
  '/a{-:b}?',
  '/:page.html',
  '/:name-:id(\\d+)',
  '/(one|two)',
  '/caf\u00e9/:x',
  '/a\\:b/:c',
  '/:a-:b/c',
  '{/:lang(en|de)}?/posts',
  '/x{y}+',
]
const PATHS = [
  ...[
    '/',
    '/posts',
    '/posts/',
    '/posts/a',
    '/posts/a/b',
    '/posts/a/comments',
    '/Posts/a',
    '/2026/11',
    '/2026/xi',
    '/tags',
  ],
  ...[
    '/tags/a',
    '/tags/a/b/c',
    '/files/',
    '/files/a/b',
    '/a/c',
    '/a/b/c',
    '/a',
    '/a/x/y',
    '/a-z',
    '/about.html',
    '/wheel-12',
  ],
  ...['/one', '/three', '/caf%C3%A9/1', '/a:b/2', '/p-q/c', '/en/posts', '/fr/posts', '/xy', '/xyyy', '/x'],
]

/**
 * In the manner of web-platform-tests, urlpattern/resources/urlpatterntestdata.json, from memory (the file is in no
 * package); the reference implementation judges each. Two are left out: `/\\` at the end, which the standard’s
 * tokenizer refuses, and so do we, but the reference takes; and `/.*`, whose fixed part `/.` the standard sends through
 * the URL parser, which makes `/` of it: ours stays as it is written.
 */
const PLATFORM_PATTERNS = [
  ...['/foo/bar', '/foo/:bar', '/foo/([^\\/]+?)', '/foo/:bar(.*)', '/foo/(.*)', '/foo/*'],
  ...[
    '/foo/:bar?',
    '/foo/:bar+',
    '/foo/:bar*',
    '/foo/(.*)?',
    '/foo/*?',
    '/foo/(.*)+',
    '/foo/*+',
    '/foo/(.*)*',
    '/foo/**',
  ],
  ...[
    '/foo{/bar}',
    '/foo{/bar}?',
    '/foo{/bar}+',
    '/foo{/bar}*',
    '/foo{/:bar}?',
    '/foo/{:bar}',
    '/foo{/:bar(\\d+)}*',
  ],
  ...[
    '/foo/bar\\?',
    '/{:foo}bar',
    '/{:foo}(barbaz)',
    '/{:foo}:bar',
    '/{:foo}b*',
    '/:foo.',
    '/:foo..',
    '/:foo./',
    '/{foo}.*',
  ],
  ...[
    '/:caf\u00e9',
    '/:\u2118',
    '/:\u3400',
    '/:a\u200d',
    '/(foo)',
    '/(a|b)c',
    '/:x(a|b)c',
    '/a:x(b)c',
    '/:x{y}',
    '/{a:x(\\d)b}+',
  ],
  ...[
    '/(?:x)',
    '/((x))',
    '/:a:a',
    '/:',
    '/{',
    '/}',
    '/{a',
    '/a}',
    '/()',
    '/(a',
    '/a)',
    '/:a()',
    '/:a(?x)',
    '/+',
    '/a+',
    '/?',
    '/{}?',
    '/{{a}}',
  ],
  ...[
    '/%20',
    '/a%2Fb/:x',
    '/\u00fc',
    '/ x',
    '/a"b',
    '/a`b',
    '/a<b>',
    '/a#b',
    '/a\\:b',
    '/a\\{b\\}',
    '/a.b',
    '/a$b',
    '/a^b',
    '/a|b',
    '/[a]',
  ],
]
const PLATFORM_PATHS = [
  ...[
    '/foo/bar',
    '/foo',
    '/foo/',
    '/foo/bar/',
    '/foo/bar/baz',
    '/foobar',
    '/foo/12',
    '/foo/bar/12',
    '/foo/bar%3F',
  ],
  ...[
    '/x',
    '/x.',
    '/x..',
    '/x./',
    '/foobarbaz',
    '/ab',
    '/abc',
    '/bc',
    '/ac',
    '/b',
    '/xbar',
    '/a',
    '/a1b',
    '/a1ba2b',
    '/foo.x',
  ],
  ...[
    '/%20',
    '/a%2Fb/1',
    '/%C3%BC',
    '/a%22b',
    '/a%60b',
    '/a%3Cb%3E',
    '/a:b',
    '/a%7Bb%7D',
    '/a.b',
    '/axb',
    '/a$b',
    '/a|b',
    '/[a]',
    '/xy',
    '/',
  ],
]

describe('the standard’s own cases', () => {
  it.each(PLATFORM_PATTERNS)('%s', (text) => {
    let reference: URLPattern | undefined
    try {
      reference = new URLPattern({ pathname: text })
    } catch {
      reference = undefined
    }
    const result = compilePattern(text)
    expect([text, result.ok]).toEqual([text, reference !== undefined])
    if (!result.ok || !reference) return
    for (const path of PLATFORM_PATHS) {
      const ours = result.pattern.regexp.exec(path)
      const theirs = reference.exec({ pathname: path })?.pathname
      expect(ours !== null, path).toBe(theirs !== undefined)
      if (!ours || !theirs) continue
      const groups = Object.fromEntries(result.pattern.names.map((name, index) => [name, ours[index + 1]]))
      expect(groups, path).toEqual({ ...theirs.groups })
    }
  })
})

describe('compilePattern', () => {
  it.each(PATTERNS)('matches the same paths for %s as the reference, with the same groups', (text) => {
    const reference = new URLPattern({ pathname: text })
    const result = compilePattern(text)
    if (!result.ok) throw new Error(result.error.reason)
    for (const path of PATHS) {
      const ours = result.pattern.regexp.exec(path)
      const theirs = reference.exec({ pathname: path })?.pathname
      expect(ours !== null, path).toBe(theirs !== undefined)
      if (!ours || !theirs) continue
      const groups = Object.fromEntries(result.pattern.names.map((name, index) => [name, ours[index + 1]]))
      expect(groups, path).toEqual({ ...theirs.groups })
    }
  })

  it('agrees with the reference on random patterns and paths', () => {
    const segment = fc.constantFrom(
      'a',
      'b',
      ':x',
      ':y',
      ':x?',
      ':y*',
      ':x+',
      '*',
      '(\\d+)',
      'a-:z',
      '{b}?',
      ':z(a|b)',
    )
    const pattern = fc.array(segment, { minLength: 1, maxLength: 3 }).map((parts) => `/${parts.join('/')}`)
    const path = fc
      .array(fc.constantFrom('a', 'b', 'ab', '12', 'a-b', ''), { maxLength: 4 })
      .map((parts) => `/${parts.join('/')}`)
      // The polyfill reads what follows a double slash as a host; readAddress never lets one through.
      .filter((one) => !one.startsWith('//'))
    fc.assert(
      fc.property(pattern, fc.array(path, { minLength: 1, maxLength: 8 }), (text, paths) => {
        let reference: URLPattern | undefined
        try {
          reference = new URLPattern({ pathname: text })
        } catch {
          reference = undefined
        }
        const result = compilePattern(text)
        expect(result.ok).toBe(reference !== undefined)
        if (!result.ok || !reference) return
        for (const one of paths)
          expect(result.pattern.regexp.test(one), `${text} ${one}`).toBe(reference.test({ pathname: one }))
      }),
      { numRuns: 400 },
    )
  })

  it.each([
    ['/posts/:', 'a name is missing after “:”', 7],
    ['/posts/(', '“(” is not closed', 7],
    ['/posts/()', 'the regular expression is empty', 8],
    ['/posts/((a))', 'capturing groups are not allowed; write (?:…)', 8],
    ['/posts/{a', '“{” is not closed before the end', 9],
    ['/posts/a}', '“}” is not allowed here', 8],
    ['/:a/:a', 'the name “a” is used twice', 4],
    ['/posts\\', 'the pattern ends with a backslash', 6],
    ['/:a([)', '“[” is not a valid regular expression', 1],
    ['/{:a-:b}/c', '“{” is not closed before “b”', 5],
    ['/+', '“+” is not allowed here', 1],
  ])('refuses %s: %s', (text, reason, at) => {
    expect(compilePattern(text)).toEqual({ ok: false, error: { reason, at } })
  })

  it('refuses a type without a parameter, and a type together with a regular expression', () => {
    expect(compilePattern('/posts', { slug: 'slug' })).toMatchObject({
      ok: false,
      error: { unusedType: 'slug' },
    })
    expect(compilePattern('/:slug(a+)', { slug: 'slug' })).toMatchObject({
      ok: false,
      error: { reason: '“slug” has both a type and a regular expression', at: 1 },
    })
  })
})
