/** Ages in words. */

const MINUTE = 60_000
const HOUR = 60 * MINUTE
const DAY = 24 * HOUR

const formats = new Map<string, Intl.RelativeTimeFormat>()

/** The language of ages, a BCP 47 tag, and what is said of less than a minute. */
export interface AgeWords {
  language?: string | undefined
  justNow?: string | undefined
}

/**
 * Returns e.g. `3 hours ago`, in a language; `just now` for less than a minute and for times that a skewed clock puts in
 * the future. Months and years are those of the calendar (UTC), as in “1 month ago” from 31 January to 28 February.
 */
export function ageInWords(
  at: Date,
  now: Date,
  { language = 'en', justNow = 'just now' }: AgeWords = {},
): string {
  const passed = now.getTime() - at.getTime()
  if (passed < MINUTE) return justNow
  if (passed < HOUR) return ago(language, Math.floor(passed / MINUTE), 'minute')
  if (passed < DAY) return ago(language, Math.floor(passed / HOUR), 'hour')
  const months = monthsBetween(at, now)
  if (months >= 12) return ago(language, Math.floor(months / 12), 'year')
  return months >= 1 ? ago(language, months, 'month') : ago(language, Math.floor(passed / DAY), 'day')
}

function ago(language: string, count: number, unit: Intl.RelativeTimeFormatUnit): string {
  let format = formats.get(language)
  if (!format) formats.set(language, (format = new Intl.RelativeTimeFormat(language, { numeric: 'always' })))
  return format.format(-count, unit)
}

/** Returns how many whole months of the calendar have passed. The last day of a month completes it. */
function monthsBetween(at: Date, now: Date): number {
  const months = (now.getUTCFullYear() - at.getUTCFullYear()) * 12 + now.getUTCMonth() - at.getUTCMonth()
  const last = new Date(Date.UTC(now.getUTCFullYear(), now.getUTCMonth() + 1, 0)).getUTCDate()
  const day = Math.min(at.getUTCDate(), last)
  const timeOf = (one: Date) => one.getTime() % DAY
  const isBefore = now.getUTCDate() < day || (now.getUTCDate() === day && timeOf(now) < timeOf(at))
  return isBefore ? months - 1 : months
}
