// Times in the blog's zone, compared with luxon. The time in a field is read back as the same instant.
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { readTime } from '../../../../core/content/times.ts'
import { fromNow, wallTimeOf } from './wall-time.ts'

/** Zones with odd offsets and with summer time, south and north. */
const ZONES = [
  'UTC',
  'Europe/London',
  'America/New_York',
  'Asia/Kathmandu',
  'Pacific/Apia',
  'Australia/Lord_Howe',
]
const instants = fc
  .date({ min: new Date('2000-01-01T00:00:00Z'), max: new Date('2037-12-31T00:00:00Z'), noInvalidDate: true })
  .map((date) => new Date(Math.floor(date.getTime() / 60_000) * 60_000))

describe('wallTimeOf', () => {
  it('returns the same time as luxon', () => {
    fc.assert(
      fc.property(instants, fc.constantFrom(...ZONES), (at, zone) => {
        expect(wallTimeOf(at.toISOString(), zone)).toBe(
          DateTime.fromJSDate(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm"),
        )
      }),
      { numRuns: 400 },
    )
  })
  it('is read back as the same instant, except in an hour that occurs twice', () => {
    fc.assert(
      fc.property(instants, fc.constantFrom(...ZONES), (at, zone) => {
        const wall = wallTimeOf(at.toISOString(), zone)
        const luxon = DateTime.fromISO(wall, { zone })
        const isTwice = luxon.getPossibleOffsets().length > 1
        const read = readTime(wall, new Date(0), zone)
        if (!isTwice) expect(read?.toISOString()).toBe(at.toISOString())
        // In that hour the first instant is used, and both have the same text.
        else expect(wallTimeOf(read?.toISOString() ?? '', zone)).toBe(wall)
      }),
      { numRuns: 400 },
    )
  })
})

describe('fromNow', () => {
  const now = new Date('2026-11-25T12:00:00Z')
  it.each([
    ['2026-11-28T09:00:00Z', 'in 2 days'],
    ['2026-11-25T14:30:00Z', 'in 2 hours'],
    ['2026-11-15T12:00:00Z', '10 days ago'],
    ['2026-11-25T11:59:00Z', '1 minute ago'],
    ['2026-11-25T11:59:30Z', 'just now'],
    ['2026-11-25T12:00:30Z', 'in a moment'],
  ])('%s is %s', (at, words) => expect(fromNow(at, now)).toBe(words))
})
