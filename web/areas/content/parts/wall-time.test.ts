// Times of posts in the blog's zone, beside luxon; what is shown in a field is read back as the same instant.
import fc from 'fast-check'
import { DateTime } from 'luxon'
import { describe, expect, it } from 'vitest'
import { readTime } from '../../../../core/content/times.ts'
import { dayInWords, fromNow, timeInWords, wallTimeOf } from './wall-time.ts'

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
  it('is what luxon shows', () => {
    fc.assert(
      fc.property(instants, fc.constantFrom(...ZONES), (at, zone) => {
        expect(wallTimeOf(at.toISOString(), zone)).toBe(
          DateTime.fromJSDate(at, { zone }).toFormat("yyyy-MM-dd'T'HH:mm"),
        )
      }),
      { numRuns: 400 },
    )
  })
  it('is read back as the same instant, outside the hour that exists twice', () => {
    fc.assert(
      fc.property(instants, fc.constantFrom(...ZONES), (at, zone) => {
        const wall = wallTimeOf(at.toISOString(), zone)
        const luxon = DateTime.fromISO(wall, { zone })
        const isTwice = luxon.getPossibleOffsets().length > 1
        const read = readTime(wall, new Date(0), zone)
        if (!isTwice) expect(read?.toISOString()).toBe(at.toISOString())
        // In that hour the first of both is meant, and both are shown alike.
        else expect(wallTimeOf(read?.toISOString() ?? '', zone)).toBe(wall)
      }),
      { numRuns: 400 },
    )
  })
})

describe('in words', () => {
  const now = new Date('2026-11-25T12:00:00Z')
  it.each([
    ['2026-11-28T09:00:00Z', 'in 2 days'],
    ['2026-11-25T14:30:00Z', 'in 2 hours'],
    ['2026-11-15T12:00:00Z', '10 days ago'],
    ['2026-11-25T11:59:00Z', '1 minute ago'],
    ['2026-11-25T11:59:30Z', 'just now'],
    ['2026-11-25T12:00:30Z', 'in a moment'],
  ])('%s is %s', (at, words) => expect(fromNow(at, now)).toBe(words))
  it('a day has its year only where it is another one, by the clock of the zone', () => {
    expect(dayInWords('2026-11-17T08:45:00Z', 'Europe/London', now)).toBe('17 Nov')
    expect(dayInWords('2025-12-31T23:30:00Z', 'Europe/London', now)).toBe('31 Dec 2025')
    expect(dayInWords('2025-12-31T23:30:00Z', 'Asia/Kathmandu', now)).toBe('1 Jan')
    expect(timeInWords('2026-07-01T08:00:00Z', 'Europe/London')).toBe('1 Jul 2026, 09:00')
  })
})
