// Reach and overlaps are decided exactly. Every witness is verified, and results are compared with brute force.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ParameterType } from '../../shapes/schemas.ts'
import { DEFAULT_POLICY, readAddress } from '../addresses/address.ts'
import { analyseRoutes, type AnalysedRoute } from './analysis.ts'
import { compilePattern } from '../patterns/pattern.ts'

type Declared =
  | string
  | { path: string; params?: Record<string, ParameterType>; passesOn?: boolean; method?: 'GET' | 'POST' }

const routes = (...declared: Declared[]): AnalysedRoute[] =>
  declared.map((one) => {
    const {
      path,
      params = {},
      passesOn = false,
      method = 'GET',
    } = typeof one === 'string' ? { path: one } : one
    const result = compilePattern(path, params)
    if (!result.ok) throw new Error(`${path}: ${result.error.reason}`)
    return {
      compiled: { route: { name: path, path }, pattern: result.pattern, method, shared: new Set() },
      passesOn,
    }
  })
const analyse = (declared: Declared[], known: string[] = []) =>
  analyseRoutes(routes(...declared), DEFAULT_POLICY, known)
const slug = (path: string) => ({ path, params: { slug: 'slug' as const } })

describe('reach', () => {
  it.each<[string, Declared[], string, object]>([
    [
      'a literal path after a pattern that matches it',
      [slug('/posts/:slug'), '/posts/archive'],
      '/posts/archive',
      { outcome: 'taken', takenBy: ['/posts/:slug'], witness: '/posts/archive' },
    ],
    [
      'a literal path before a pattern that matches it',
      ['/posts/archive', slug('/posts/:slug')],
      '/posts/:slug',
      { outcome: 'reached' },
    ],
    [
      'several routes that together match everything',
      ['/:a', '/:a/:b', '/:a/:b/:c+', { path: '/:rest', params: { rest: 'path' } }],
      '/:rest',
      { outcome: 'taken', takenBy: ['/:a', '/:a/:b', '/:a/:b/:c+'] },
    ],
    [
      'several routes that leave some paths',
      ['/:a', '/:a/:b/:c', { path: '/:rest', params: { rest: 'path' } }],
      '/:rest',
      { outcome: 'reached', witness: '/a/a' },
    ],
    [
      'a literal path that the types exclude',
      [{ path: '/:y/:m', params: { y: 'year', m: 'month' } }, '/2026/13'],
      '/2026/13',
      { outcome: 'reached', witness: '/2026/13' },
    ],
    [
      'a literal path that the types include',
      [{ path: '/:y/:m', params: { y: 'year', m: 'month' } }, '/2026/12'],
      '/2026/12',
      { outcome: 'taken' },
    ],
    [
      'a route that continues with the next',
      [{ ...slug('/:slug'), passesOn: true }, '/about'],
      '/about',
      { outcome: 'reached' },
    ],
    [
      'a route with another method',
      [{ ...slug('/:slug'), method: 'POST' }, '/about'],
      '/about',
      { outcome: 'reached' },
    ],
    ['no canonical address has a slash at the end', ['/posts/'], '/posts/', { outcome: 'empty' }],
    ['nor a capital letter', ['/About'], '/About', { outcome: 'empty' }],
    ['nor two slashes', ['/a//b'], '/a//b', { outcome: 'empty' }],
  ])('%s: %j', (_, declared, name, expected) => {
    expect(analyse(declared).reach.find((one) => one.name === name)).toMatchObject(expected)
  })

  it('prefers an existing address as the witness', () => {
    const declared = [slug('/posts/:slug'), '/posts/archive']
    const known = ['/posts/truing-a-wheel', '/posts/archive']
    expect(analyse(declared, known).reach.map((one) => one.witness)).toEqual([
      '/posts/truing-a-wheel',
      '/posts/archive',
    ])
  })
})

describe('overlaps', () => {
  it.each<[Declared[], object[]]>([
    [[slug('/posts/:slug'), '/category/:c'], []],
    [['/posts/archive', slug('/posts/:slug')], [{ relation: 'earlier-within', witness: '/posts/archive' }]],
    [[slug('/posts/:slug'), '/posts/archive'], [{ relation: 'later-within', witness: '/posts/archive' }]],
    [[slug('/posts/:slug'), '/:a/archive'], [{ relation: 'partial', witness: '/posts/archive' }]],
    [['/:a/:b', '/:c/:d'], [{ relation: 'same', witness: '/a/a' }]],
    [
      [
        { path: '/:n', params: { n: 'integer' } },
        { path: '/:y', params: { y: 'year' } },
      ],
      [{ relation: 'later-within' }],
    ],
  ])('%j', (declared, expected) => {
    expect(analyse(declared).overlaps).toMatchObject(expected)
  })
})

describe('compared with brute force over short paths', () => {
  /** All canonical addresses of up to three segments over a small alphabet. */
  const WORLD = (() => {
    const words = ['a', 'b', 'ab', 'ba', 'aa', '1', '12', 'a-b', 'b1']
    const paths = ['/']
    for (const one of words) {
      paths.push(`/${one}`)
      for (const two of words) {
        paths.push(`/${one}/${two}`)
        for (const three of words.slice(0, 5)) paths.push(`/${one}/${two}/${three}`)
      }
    }
    return paths
  })()
  const segment = fc.constantFrom(
    'a',
    'b',
    'ab',
    ':x',
    ':y(a|b)',
    ':z([ab]+)',
    ':n(\\d+)',
    'a-:w',
    ':v?',
    '*',
  )
  const pattern = fc
    .array(segment, { minLength: 1, maxLength: 3 })
    .map((parts) => `/${parts.join('/')}`)
    .filter((path) => compilePattern(path).ok)

  it('reports reached routes as reached, and every witness is valid', () => {
    let taken = 0
    fc.assert(
      fc.property(fc.array(pattern, { minLength: 2, maxLength: 5 }), (paths) => {
        const named = routes(...paths)
        const { reach, overlaps } = analyseRoutes(named, DEFAULT_POLICY)
        const regexpAt = (index: number) => named[index]?.compiled.pattern.regexp ?? /(?!)/
        const firstOf = (address: string) =>
          named.findIndex((one) => one.compiled.pattern.regexp.test(address))
        for (const [index, one] of reach.entries()) {
          const reachedThere = WORLD.find((address) => firstOf(address) === index)
          if (reachedThere !== undefined)
            expect(one.outcome, `${paths.join(' ')}: ${reachedThere}`).toBe('reached')
          if (one.outcome === 'empty') continue
          const { witness } = one
          if (witness === null) throw new Error('no witness')
          expect(readAddress(witness)).toMatchObject({ ok: true, path: witness })
          expect(regexpAt(index).test(witness)).toBe(true)
          if (one.outcome === 'reached')
            expect(firstOf(witness), `${paths.join(' ')}: ${witness}`).toBe(index)
          else taken++
        }
        const seen = new Set<string>()
        for (const { earlier, later, witness, relation } of overlaps) {
          // Patterns may stand twice in the list; the names are then the same.
          const [i, j] = [paths.indexOf(earlier), paths.lastIndexOf(later)]
          seen.add(`${i} ${j}`)
          expect(
            regexpAt(i).test(witness) && regexpAt(j).test(witness),
            `${earlier} ${later} ${witness}`,
          ).toBe(true)
          const onlyEarlier = WORLD.some((one) => regexpAt(i).test(one) && !regexpAt(j).test(one))
          const onlyLater = WORLD.some((one) => !regexpAt(i).test(one) && regexpAt(j).test(one))
          if (onlyEarlier) expect(['partial', 'later-within']).toContain(relation)
          if (onlyLater) expect(['partial', 'earlier-within']).toContain(relation)
        }
        for (const [j, later] of paths.entries())
          for (const [i, earlier] of paths.slice(0, j).entries()) {
            if (WORLD.some((one) => regexpAt(i).test(one) && regexpAt(j).test(one)))
              expect(
                overlaps.some((one) => one.earlier === earlier && one.later === later),
                `${earlier} ${later}`,
              ).toBe(true)
          }
      }),
      { numRuns: 120 },
    )
    expect(taken).toBeGreaterThan(5)
  })
})
