import { describe, expect, it } from 'vitest'
import { contradictedDay, monthNames, monthsIn } from './shown-date.ts'

const words = { months: monthNames('en-GB'), timeZone: 'Europe/London' }

describe('the date beside a time', () => {
  // The forms that templates print: common practice.
  it.each([
    ['2026-03-02T09:00:00.000Z', '2 March 2026'],
    ['2026-03-02T09:00:00.000Z', '02 Mar 2026, 09:00'],
    ['2026-03-02T09:00:00.000Z', 'Monday, March 2nd, 2026'],
    ['2026-03-02T09:00:00.000Z', '03/02/2026'],
    ['2026-03-02T09:00:00.000Z', '2026-03-02'],
    ['2026-03-02T09:00:00.000Z', 'March 2026'],
    ['2026-03-02T09:00:00.000Z', '2 March'],
    ['2026-03-02T09:00:00.000Z', '3 days ago'],
    ['2026-03-02T09:00:00.000Z', 'between 2024 and 2026'],
    ['2026-03-02', '2 March 2026'],
    ['2026', '2 March 2025'],
    ['not a time', '2 March 2026'],
    // In London it is the next day already.
    ['2026-05-31T23:30:00.000Z', '1 June 2026'],
  ])('of %s may be “%s”', (time, text) => expect(contradictedDay(time, text, words)).toBeUndefined())

  it.each([
    ['2026-03-02T09:00:00.000Z', '3 March 2026', '2026-03-02'],
    ['2026-03-02T09:00:00.000Z', '2 May 2026', '2026-03-02'],
    ['2026-03-02T09:00:00.000Z', '2 March 2025', '2026-03-02'],
    ['2026-03-02T09:00:00.000Z', '02/03/2025', '2026-03-02'],
    ['2026-05-31T23:30:00.000Z', '31 May 2026', '2026-06-01'],
  ])('of %s is not “%s”', (time, text, day) => expect(contradictedDay(time, text, words)).toBe(day))
})

it.each([
  ['en', 'May 2026', [5]],
  ['en', 'Maybe in June or July', [6, 7]],
  ['en', 'Marching on', []],
  ['de', 'März 2026', [3]],
  ['de', '3. Dez. 2026', [12]],
  // In a date, the name is inflected.
  ['cs', '2. března 2026', [3]],
  ['cs', 'březen 2026', [3]],
])('in %s, “%s” has the months %j', (language, text, months) =>
  expect(monthsIn(text, monthNames(language))).toEqual(months),
)
