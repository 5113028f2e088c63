// Encodings: negotiation by RFC 9110 §12.5.3, and files that Debian's gzip reads.
import { execFileSync } from 'node:child_process'
import { brotliDecompressSync, gunzipSync } from 'node:zlib'
import fc from 'fast-check'
import { expect, it } from 'vitest'
import { encodeText, gzipParts, joinGzipParts, negotiateEncoding } from './encoding.ts'

it.each([
  [undefined, 'identity'],
  ['', 'identity'],
  // The examples of RFC 9110 §12.5.3.
  ['compress, gzip', 'gzip'],
  ['*', 'br'],
  ['compress;q=0.5, gzip;q=1.0', 'gzip'],
  ['gzip;q=1.0, identity; q=0.5, *;q=0', 'gzip'],
  // What browsers send.
  ['gzip, deflate, br', 'br'],
  ['gzip, deflate, br, zstd', 'br'],
  ['br;q=0, gzip', 'gzip'],
  ['br;q=0, gzip;q=0', 'identity'],
  ['br;q=0.1, gzip;q=0.9', 'gzip'],
  ['identity', 'identity'],
  ['gzip;q=0.5, identity', 'identity'],
  ['unknown', 'identity'],
  ['gzip;q=nonsense', 'identity'],
])('Accept-Encoding: %s', (accepted, expected) => {
  expect(negotiateEncoding(accepted, ['br', 'gzip'])).toBe(expected)
})

it('a text is what it was before', async () => {
  const text = 'Ü 雨の日 '.repeat(500)
  expect(gunzipSync(await encodeText(text, 'gzip')).toString()).toBe(text)
  expect(brotliDecompressSync(await encodeText(text, 'br')).toString()).toBe(text)
})

it('parts that were compressed before are one file with any text between them', async () => {
  const text = fc.string({ unit: 'binary', maxLength: 300 })
  await fc.assert(
    fc.asyncProperty(fc.array(text, { minLength: 1, maxLength: 4 }), text, async (parts, between) => {
      const whole = Buffer.from(parts.join(between))
      const file = joinGzipParts(
        await gzipParts(parts),
        parts.slice(1).map(() => between),
      )
      expect(gunzipSync(file).equals(whole)).toBe(true)
    }),
    { numRuns: 200 },
  )
})

it('Debian’s gzip reads them, and their checksum is right', async () => {
  const file = joinGzipParts(await gzipParts(['<p>'.repeat(9_000), '</p>'.repeat(9_000)]), ['a token'])
  expect(execFileSync('gzip', ['-dc'], { input: file }).toString()).toBe(
    `${'<p>'.repeat(9_000)}a token${'</p>'.repeat(9_000)}`,
  )
})
