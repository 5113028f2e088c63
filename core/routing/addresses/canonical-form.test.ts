// Every page has one address (common practice): a parameter value that can be written in several ways has one canonical form.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { ParameterType, Route } from '../../shapes/schemas.ts'
import { DEFAULT_POLICY, readAddress, type AddressPolicy } from './address.ts'
import { matchRoute } from './match.ts'
import { compileRoute } from './compiled-route.ts'
import { canonicalForm } from './canonical-form.ts'
import { RouteTable } from './table.ts'

function table(...routes: [path: string, params: NonNullable<Route['params']>][]): RouteTable {
  return new RouteTable(
    routes.map(([path, params], at) => {
      const result = compileRoute({ name: `route-${at}`, path, params, template: 'pages/any' })
      if (!result.ok) throw new Error(result.error.reason)
      return result.compiled
    }),
  )
}

const KEEP: AddressPolicy = { ...DEFAULT_POLICY, letterCase: 'keep' }

function other(routes: RouteTable, target: string, policy = DEFAULT_POLICY): string | undefined {
  const address = readAddress(target, policy)
  if (!address.ok) throw new Error(address.reason)
  const match = matchRoute(routes, 'GET', address.path)
  if (match.outcome !== 'matched') throw new Error(`${target}: ${match.outcome}`)
  return canonicalForm(routes, policy, match)?.path
}

describe('canonicalForm', () => {
  const UUID = '123e4567-e89b-12d3-a456-426614174000'
  it.each<[ParameterType, string, string | undefined]>([
    ['month', '01', '/1'],
    ['month', '1', undefined],
    ['month', '12', undefined],
    ['day', '09', '/9'],
    ['year', '2026', undefined],
    ['integer', '007', '/7'],
    ['integer', '-0', '/0'],
    ['integer', '-08', '/-8'],
    ['integer', '0', undefined],
    ['integer', '2147483647', undefined],
    ['number', '1.50', '/1.5'],
    ['number', '2.0', '/2'],
    // Its value would be built as “1e-7”, which does not match.
    ['number', '0.0000001', undefined],
    ['slug', '007', undefined],
    ['text', '007', undefined],
    ['text', 'a%20b', undefined],
    ['path', '01/02', undefined],
    ['uuid', UUID, undefined],
    ['uuid', UUID.toUpperCase(), `/${UUID}`],
  ])('%s %s: %s', (type, text, expected) => {
    expect(other(table(['/:value', { value: type }]), `/${text}`, KEEP)).toBe(expected)
  })

  it('makes every parameter canonical', () => {
    const routes = table(['/:year/:month/:slug', { year: 'year', month: 'month', slug: 'slug' }])
    expect(other(routes, '/2026/07/zip-surgery')).toBe('/2026/7/zip-surgery')
    const withSlash = { ...DEFAULT_POLICY, trailingSlash: 'with' as const }
    expect(other(routes, '/2026/07/zip-surgery/', withSlash)).toBe('/2026/7/zip-surgery/')
  })

  it('keeps a value whose pattern fixes its form, or whose canonical form belongs to another route', () => {
    expect(other(table(['/:month(\\d\\d)', {}]), '/01')).toBeUndefined()
    expect(other(table(['/1', {}], ['/:month', { month: 'month' }]), '/01')).toBeUndefined()
    expect(other(table(['/:any(\\d)', {}], ['/:month', { month: 'month' }]), '/01')).toBeUndefined()
  })

  it('names the value that is not canonical', () => {
    const routes = table(['/:year/:month', { year: 'year', month: 'month' }])
    const match = matchRoute(routes, 'GET', '/2026/07')
    if (match.outcome !== 'matched') throw new Error('it matches')
    expect(canonicalForm(routes, DEFAULT_POLICY, match)?.reason).toBe(
      'Canonical form: month “7” instead of “07”.',
    )
  })

  it('has the same values and is its own canonical form', () => {
    const routes = table(
      ['/:year/:month/:day', { year: 'year', month: 'month', day: 'day' }],
      ['/n/:number', { number: 'number' }],
      ['/i/:integer', { integer: 'integer' }],
      ['/u/:uuid', { uuid: 'uuid' }],
    )
    const digits = fc.stringMatching(/^[0-9]{1,4}$/)
    const target = fc.oneof(
      fc.tuple(digits, digits, digits).map((parts) => `/${parts.join('/')}`),
      fc.stringMatching(/^-?[0-9]{1,15}(\.[0-9]{1,15})?$/).map((text) => `/n/${text}`),
      fc.stringMatching(/^-?0{0,3}[0-9]{1,7}$/).map((text) => `/i/${text}`),
      fc.uuid().map((text) => `/u/${text.toUpperCase()}`),
    )
    let canonicalized = 0
    fc.assert(
      fc.property(target, (path) => {
        const match = matchRoute(routes, 'GET', path)
        if (match.outcome !== 'matched') return
        const found = canonicalForm(routes, KEEP, match)
        if (!found) return
        canonicalized++
        const there = matchRoute(routes, 'GET', found.path)
        if (there.outcome !== 'matched') throw new Error(`${found.path} is not matched`)
        expect([there.index, ...there.parameters.map((one) => one.value)]).toEqual([
          match.index,
          ...match.parameters.map((one) => (one.value === 0 ? 0 : one.value)),
        ])
        expect(canonicalForm(routes, KEEP, there)).toBeUndefined()
        expect(readAddress(found.path, KEEP).ok).toBe(true)
      }),
      { numRuns: 2_000 },
    )
    expect(canonicalized).toBeGreaterThan(300)
  })
})
