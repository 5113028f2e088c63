// Times that do not exist in a zone or occur twice, compared with luxon for several years and zones with odd offsets.
import { DateTime } from 'luxon'
import { expect, it } from 'vitest'
import { wallTimeNote } from './wall-time-note.ts'

it.each([
  [
    '2027-03-28T01:30',
    'Europe/London',
    '01:30 does not exist on that day in Europe/London, because clocks go forward. 02:30 is used.',
  ],
  [
    '2027-10-31T01:30',
    'Europe/London',
    '01:30 occurs twice on that day in Europe/London, because clocks go back. The first one is used.',
  ],
  // IANA tz: Lord Howe moves by half an hour.
  [
    '2027-04-04T01:45',
    'Australia/Lord_Howe',
    '01:45 occurs twice on that day in Australia/Lord_Howe, because clocks go back. The first one is used.',
  ],
  ['2027-07-01T01:30', 'Europe/London', undefined],
  ['', 'UTC', undefined],
])('%s in %s', (wall, zone, note) => expect(wallTimeNote(wall, zone)).toBe(note))

it('exist exactly where luxon finds no or two offsets', () => {
  for (const zone of [
    'Europe/London',
    'America/New_York',
    'Australia/Lord_Howe',
    'Asia/Kathmandu',
    'Africa/Casablanca',
  ])
    for (let year = 2025; year < 2031; year++)
      // Every half hour of the days on which clocks change somewhere.
      for (const [month, day] of [
        [3, 0],
        [4, 0],
        [10, 0],
        [11, 0],
      ] as const)
        for (let offset = 1; offset <= 31; offset += 1) {
          const date = DateTime.utc(year, month, 1).plus({ days: offset - 1 + day })
          if (date.weekday !== 7) continue
          for (let half = 0; half < 10; half++) {
            const wall = date.plus({ minutes: 30 * half + 7 })
            const text = wall.toFormat("yyyy-MM-dd'T'HH:mm")
            const there = DateTime.fromISO(text, { zone })
            const isMissing = there.toFormat("yyyy-MM-dd'T'HH:mm") !== text
            const isDoubled = there.getPossibleOffsets().length > 1
            const note = wallTimeNote(text, zone) ?? ''
            expect(
              [note.includes('does not exist'), note.includes('occurs twice')],
              `${text} ${zone}`,
            ).toEqual([isMissing, isDoubled])
          }
        }
})
