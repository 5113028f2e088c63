/** Times of posts in the blog's own zone, as a field for date and time shows them. */

/** `2026-11-20T09:30` in a zone. */
export function wallTimeOf(instant: string, timeZone: string): string {
  const parts = new Intl.DateTimeFormat('en-CA', {
    timeZone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
  }).formatToParts(new Date(instant))
  const part = (type: Intl.DateTimeFormatPartTypes) => parts.find((one) => one.type === type)?.value ?? ''
  return `${part('year')}-${part('month')}-${part('day')}T${part('hour')}:${part('minute')}`
}

/** Day and time in words, in the blog's zone: `20 Nov 2026, 09:30`. */
export const timeInWords = (instant: string, timeZone: string): string =>
  new Intl.DateTimeFormat('en-GB', {
    timeZone,
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  }).format(new Date(instant))

/** Day only, with the year where it is another one: `20 Nov`. */
export const dayInWords = (instant: string, timeZone: string, now: Date): string => {
  const year = (at: Date) => new Intl.DateTimeFormat('en', { timeZone, year: 'numeric' }).format(at)
  const at = new Date(instant)
  return new Intl.DateTimeFormat('en-GB', {
    timeZone,
    day: 'numeric',
    month: 'short',
    ...(year(at) === year(now) ? {} : { year: 'numeric' }),
  }).format(at)
}

/** `in 3 days`, `10 days ago`. */
export function fromNow(instant: string, now: Date): string {
  const seconds = (new Date(instant).getTime() - now.getTime()) / 1000
  const format = new Intl.RelativeTimeFormat('en', { numeric: 'always' })
  const units = [
    ['day', 86_400],
    ['hour', 3_600],
    ['minute', 60],
  ] as const
  for (const [unit, length] of units)
    if (Math.abs(seconds) >= length) return format.format(Math.trunc(seconds / length), unit)
  return seconds > 0 ? 'in a moment' : 'just now'
}
