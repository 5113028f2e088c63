import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isoTime } from './iso-time.ts'

describe('times as ISO 8601', () => {
  it('are written as toISOString does, for every date', () => {
    fc.assert(
      fc.property(fc.date({ noInvalidDate: true }), (date) => {
        expect(isoTime(date)).toBe(date.toISOString())
      }),
      { numRuns: 3_000 },
    )
  })

  it('are right at the ends of days and years, before 1970, and at the first and last possible time', () => {
    for (const instant of [0, -1, 1, 86_399_999, 86_400_000, -86_400_000, -86_400_001, 8.64e15, -8.64e15])
      expect(isoTime(new Date(instant))).toBe(new Date(instant).toISOString())
  })

  it('are refused for an invalid date', () => {
    expect(() => isoTime(new Date(NaN))).toThrow(RangeError)
  })
})
