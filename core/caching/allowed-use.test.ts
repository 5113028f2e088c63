// What browsers and shared caches may do, in words, agrees with a library that implements RFC 9111.
import CachePolicy from 'http-cache-semantics'
import { describe, expect, it } from 'vitest'
import { allowedUse } from './allowed-use.ts'

const policy = (status: number, headers: Record<string, string>, shared: boolean) =>
  new CachePolicy(
    { url: '/', method: 'GET', headers: {} },
    { status, headers: { date: new Date().toUTCString(), ...headers } },
    { shared },
  )
const request = { url: '/', method: 'GET', headers: {} }

describe('what caches may do', () => {
  it.each<[Record<string, string>, string]>([
    [{ 'cache-control': 'no-store' }, 'Neither the browser nor a shared cache may keep it.'],
    [
      { 'cache-control': 'private, no-cache', etag: '"a"' },
      'Only the browser may keep it, and must ask whether it is still valid each time.',
    ],
    [
      { 'cache-control': 'no-cache', etag: '"a"' },
      'Browsers and shared caches may keep it, and must ask whether it is still valid each time.',
    ],
    [
      { 'cache-control': 'public, max-age=600, stale-while-revalidate=30', etag: '"a"', age: '120' },
      'Browsers and shared caches may keep it, and use it for 8 minutes (it is 2 minutes old). For 30 seconds more, they may use it while they ask whether it is still valid.',
    ],
    [
      { 'cache-control': 'public, max-age=600, stale-if-error=1200' },
      'Browsers and shared caches may keep it, and use it for 10 minutes. If that fails, they may use it for 20 minutes more.',
    ],
  ])('%j', (headers, expected) => {
    const text = allowedUse(200, headers)
    expect(text).toBe(expected)
    expect(text.includes('shared caches may keep')).toBe(policy(200, headers, true).storable())
    expect(!text.startsWith('Neither')).toBe(policy(200, headers, false).storable())
    const usesIt = policy(200, headers, true).satisfiesWithoutRevalidation(request)
    expect(text.includes('use it for') && text.includes('shared')).toBe(usesIt)
  })
  it('an answer that says nothing is kept for a guessed time, or not at all', () => {
    const headers = { 'last-modified': 'Sat, 28 Nov 2020 10:00:00 GMT' }
    expect(allowedUse(200, headers)).toContain('guess')
    expect(policy(200, headers, true).storable()).toBe(true)
    expect(allowedUse(302, {})).toContain('Neither')
    expect(policy(302, {}, true).storable()).toBe(false)
  })
})
