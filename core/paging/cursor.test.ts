// Cursors: only unchanged cursors are accepted. The encoding (RFC 4648 §5) is compared with Node's.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { readCursor, writeCursor, type Cursor } from './cursor.ts'

/** A weak signature that is sufficient for these tests. */
const sign = (text: string) =>
  [...text].reduce((sum, one) => (sum * 31 + (one.codePointAt(0) ?? 0)) % 1_000_003, 7).toString(36)

const cursors: fc.Arbitrary<Cursor> = fc.record({
  toward: fc.constantFrom('after' as const, 'before' as const),
  values: fc.array(
    fc.option(fc.string({ unit: 'binary', maxLength: 40 }).filter((one) => one.isWellFormed())),
  ),
})

describe('a cursor', () => {
  it('decodes to what was encoded, whatever its values', () => {
    fc.assert(
      fc.property(cursors, fc.string(), (cursor, scope) => {
        expect(readCursor(writeCursor(cursor, scope, sign), scope, sign)).toEqual({ ok: true, cursor })
      }),
    )
  })
  it('needs no escaping in an address', () => {
    fc.assert(
      fc.property(cursors, (cursor) => {
        const text = writeCursor(cursor, 's', sign)
        expect(new URLSearchParams({ from: text }).toString()).toBe(`from=${text}`)
      }),
    )
  })
  it('contains the base64url of its values, as Node encodes it', () => {
    const text = writeCursor({ toward: 'after', values: ['雨の日 ÷ ?>', null] }, 's', sign)
    expect(Buffer.from(text.split('.')[0] ?? '', 'base64url').toString()).toBe('["a","雨の日 ÷ ?>",null]')
  })
  it('is refused for another listing', () => {
    const text = writeCursor({ toward: 'after', values: ['1'] }, 'posts', sign)
    expect(readCursor(text, 'pages', sign)).toEqual({
      ok: false,
      why: 'it belongs to another listing, or it was changed',
    })
  })
  it('is refused with any one character changed, missing or added', () => {
    const text = writeCursor({ toward: 'after', values: ['2026-11-20 09:30:00+00', '7'] }, 's', sign)
    for (let at = 0; at < text.length; at++) {
      const other = text[at] === 'A' ? 'B' : 'A'
      for (const changed of [
        text.slice(0, at) + other + text.slice(at + 1),
        text.slice(0, at) + text.slice(at + 1),
        text.slice(0, at) + other + text.slice(at),
      ])
        expect(readCursor(changed, 's', sign).ok, changed).toBe(false)
    }
  })
  it.each([
    ['', 'it is not a cursor'],
    ['2', 'it is not a cursor'],
    ['a.b.c', 'it is not a cursor'],
    ['💥.x', 'it is not a cursor'],
    ['x'.repeat(10_000), 'it is too long'],
  ])('refuses %j: %s', (text, why) => {
    expect(readCursor(text, 's', sign)).toEqual({ ok: false, why })
  })
  it('is refused if it is signed but has another shape', () => {
    const body = Buffer.from('{"a').toString('base64url')
    expect(readCursor(`${body}.${sign(`1:s${body}`)}`, 's', sign)).toMatchObject({ ok: false })
  })
})
