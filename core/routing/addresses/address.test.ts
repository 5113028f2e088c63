// Malformed addresses, canonical forms, and redirects that end after one step.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readAddress, type AddressPolicy } from './address.ts'

const KEEP: AddressPolicy = { letterCase: 'keep', trailingSlash: 'without' }
const SLASH: AddressPolicy = { letterCase: 'lower', trailingSlash: 'with' }

describe('readAddress', () => {
  it.each([
    ['/', '/', ''],
    ['/posts', '/posts', ''],
    ['/posts?page=2', '/posts', 'page=2'],
    ['/posts?q=%zz&r=a+b', '/posts', 'q=%zz&r=a+b'],
    ["/a!$&'()*+,;=:@b", "/a!$&'()*+,;=:@b", ''],
    ['/caf%C3%A9', '/caf%C3%A9', ''],
    ['/.well-known/x', '/.well-known/x', ''],
    ['/...', '/...', ''],
  ])('accepts %s as canonical', (target, path, query) => {
    expect(readAddress(target)).toEqual({ ok: true, path, query })
  })

  it.each([
    ['/posts/', '/posts', 'no trailing slash'],
    ['/posts/?page=2', '/posts?page=2', 'no trailing slash'],
    ['//evil.example', '/evil.example', 'no double slash'],
    ['/posts//a/', '/posts/a', 'no double slash, no trailing slash'],
    ['/Posts/A-Wheel', '/posts/a-wheel', 'lower case'],
    ['/posts?From=Mail', undefined, ''],
    ['/a|b', '/a%7Cb', 'normalized percent-encoding'],
    ['/\\evil.example/', '/%5Cevil.example', 'normalized percent-encoding, no trailing slash'],
    ['/é?q=é', '/%C3%A9?q=%C3%A9', 'normalized percent-encoding'],
    ['/%C3%89', undefined, ''],
  ])('redirects %s to %s', (target, to, reason) => {
    expect(readAddress(target)).toEqual(
      to === undefined
        ? expect.objectContaining({ ok: true })
        : { ok: false, status: 308, to, reason: `Canonical form: ${reason}.` },
    )
  })

  // RFC 3986 §6.2.2.1 to §6.2.2.3 (the scheme and host of its example left out) and §5.2.4.
  it.each([
    ['/%7bfoo%7d', '/%7Bfoo%7D'],
    ['/%7Esmith', '/~smith'],
    ['/b/c/%7Bfoo%7D/../x', '/b/c/x'],
    ['/a/b/c/./../../g', '/a/g'],
    ['/mid/content=5/../6', '/mid/6'],
    ['/..', '/'],
    ['/a/..', '/'],
    ['/%2e%2e/a', '/a'],
  ])('normalizes %s to %s as in RFC 3986', (target, to) => {
    expect(readAddress(target, KEEP)).toMatchObject({ ok: false, status: 308, to })
  })

  it.each([
    ['/posts', '/posts/', 'trailing slash'],
    ['/feed.atom/', '/feed.atom', 'no trailing slash'],
  ])('redirects %s to %s if the policy is a trailing slash', (target, to, reason) => {
    expect(readAddress(target, SLASH)).toEqual({
      ok: false,
      status: 308,
      to,
      reason: `Canonical form: ${reason}.`,
    })
  })
  it('gives patterns a path without a trailing slash, whatever the policy', () => {
    expect(readAddress('/posts/?page=2', SLASH)).toEqual({ ok: true, path: '/posts', query: 'page=2' })
    expect(readAddress('/', SLASH)).toEqual({ ok: true, path: '/', query: '' })
    expect(readAddress('/feed.atom', SLASH)).toEqual({ ok: true, path: '/feed.atom', query: '' })
  })

  it.each([
    ['/%', 400],
    ['/%zz', 400],
    ['/%E0%A4%A', 400],
    ['/%ff', 400],
    ['/a%00b', 400],
    [`/${'a'.repeat(8_000)}`, 414],
  ])('rejects %s with %i', (target, status) => {
    expect(readAddress(target)).toMatchObject({ ok: false, status })
  })

  it('redirects once, and only to the same origin', () => {
    const piece = fc.oneof(
      fc.constantFrom(
        '/',
        '//',
        '.',
        '..',
        '/./',
        '/../',
        '%2F',
        '%2e',
        '%41',
        '%c3%a9',
        'A',
        'b',
        '|',
        '\\',
        'é',
        '%',
        '"',
        '?',
        '.x',
      ),
      fc.string({ maxLength: 3, unit: 'grapheme' }),
    )
    const target = fc.array(piece, { maxLength: 8 }).map((parts) => `/${parts.join('')}`)
    const policy = fc.record<AddressPolicy>({
      letterCase: fc.constantFrom('lower', 'keep'),
      trailingSlash: fc.constantFrom('without', 'with'),
    })
    fc.assert(
      fc.property(target, policy, (text, rule) => {
        const reading = readAddress(text, rule)
        if (reading.ok) {
          expect(reading.path).toMatch(/^\/(?!\/)/)
          return
        }
        if (reading.status !== 308) return
        expect(reading.to).toMatch(/^\/(?![/\\])[!-~]*$/)
        expect(readAddress(reading.to, rule).ok, `${text} → ${reading.to}`).toBe(true)
        // A browser resolves it to the same path.
        const { pathname, origin } = new URL(reading.to, 'http://blog.test')
        expect([origin, pathname]).toEqual(['http://blog.test', reading.to.replace(/\?.*$/s, '')])
      }),
      { numRuns: 2_000 },
    )
  })
})
