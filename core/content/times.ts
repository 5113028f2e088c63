/** Times in content files: absolute (ISO 8601) or relative to the day of the import, in the blog's time zone. */
import { tzOffset } from '@date-fns/tz'
import type { Worded } from '../shapes/catalogue.ts'
import { CONTENT_PROBLEMS } from './problems.ts'

const RELATIVE = /^([+-]?\d{1,4}) days?(?: (\d{2}):(\d{2}))?$/
const ABSOLUTE = /^\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:?\d{2})?)?$/

/** Returns the offset of a time zone at an instant, in milliseconds east of UTC. */
export const offsetAt = (instant: number, timeZone: string): number =>
  tzOffset(timeZone, new Date(instant)) * 60_000

/** Returns the start of a day in UTC. `Date.UTC` takes years before 100 for those after 1900. */
const utc = (year: number, month: number, day: number): number =>
  new Date(0).setUTCFullYear(year, month - 1, day)

/** Returns a date as `2026-02-28`. */
const dateText = (instant: number): string => new Date(instant).toISOString().slice(0, 10)

/**
 * Returns the days before and after a day that does not exist, such as 30 February; undefined for any other text.
 * @param text that begins with a date
 */
function daysBeside(text: string): [before: string, after: string] | undefined {
  const found = /^(\d{4})-(\d{2})-(\d{2})(?!\d)/.exec(text)
  const [year = 0, month = 0, day = 0] = (found ?? []).slice(1).map(Number)
  if (!found || month < 1 || month > 12 || day < 1 || day > 31) return undefined
  const first = utc(year, month + 1, 1)
  return dateText(utc(year, month, day)) === found[0]
    ? undefined
    : [dateText(first - 86_400_000), dateText(first)]
}

/** Says why a text is not a time. */
export function invalidTime(text: string): Worded {
  const beside = daysBeside(text)
  return beside
    ? CONTENT_PROBLEMS['time-day-unknown'](text.slice(0, 10), ...beside)
    : CONTENT_PROBLEMS['time-invalid'](text)
}

/**
 * Returns the instant of a wall-clock time in a zone. A time in the hour skipped by daylight saving is moved forward by
 * that hour. A time in the repeated hour is the first of the two.
 */
export function wallTime(
  year: number,
  month: number,
  day: number,
  hour: number,
  minute: number,
  timeZone: string,
  milliseconds = 0,
): Date {
  const wall = utc(year, month, day) + (hour * 60 + minute) * 60_000 + milliseconds
  const candidates = [offsetAt(wall - 86_400_000, timeZone), offsetAt(wall + 86_400_000, timeZone)].map(
    (offset) => wall - offset,
  )
  const exact = candidates.filter((instant) => instant + offsetAt(instant, timeZone) === wall)
  return new Date(exact.length > 0 ? Math.min(...exact) : (candidates[0] ?? wall))
}

/**
 * Reads a time from a content file.
 * @param text `2026-11-20`, `2026-11-20T09:30` with or without an offset, `-3 days 09:30`, or `now`
 * @returns undefined if the text is not a time
 */
export function readTime(text: string, now: Date, timeZone: string): Date | undefined {
  if (text === 'now') return now
  const relative = RELATIVE.exec(text)
  if (relative) {
    const today = new Intl.DateTimeFormat('en-CA', { timeZone }).format(now).split('-').map(Number)
    const [year = 1970, month = 1, day = 1] = today
    const shifted = new Date(Date.UTC(year, month - 1, day + Number(relative[1])))
    const hour = Number(relative[2] ?? 9)
    const minute = Number(relative[3] ?? 0)
    if (hour > 23 || minute > 59) return undefined
    return wallTime(
      shifted.getUTCFullYear(),
      shifted.getUTCMonth() + 1,
      shifted.getUTCDate(),
      hour,
      minute,
      timeZone,
    )
  }
  if (!ABSOLUTE.test(text) || daysBeside(text)) return undefined
  const parsed = new Date(text.replace(' ', 'T'))
  if (Number.isNaN(parsed.getTime())) return undefined
  if (/(?:Z|[+-]\d{2}:?\d{2})$/.test(text) && text.length > 10) return parsed
  const [date = '', time = '00:00'] = text.split(/[T ]/)
  const [year = 1970, month = 1, day = 1] = date.split('-').map(Number)
  const [hour = 0, minute = 0, second = 0] = time.split(':').map(Number)
  return wallTime(year, month, day, hour, minute, timeZone, Math.round(second * 1_000))
}

/** Returns true for the name of a time zone that Intl knows. */
export function isTimeZone(name: string): boolean {
  // Offsets are not accepted: PostgreSQL reads their sign the other way round.
  if (!/^[A-Za-z]/.test(name)) return false
  try {
    new Intl.DateTimeFormat('en', { timeZone: name })
    return true
  } catch {
    return false
  }
}
