/** Times in the blog's own time zone. */
import { words } from '../words.ts'

/** Returns the wall-clock time in a zone, e.g. `2026-11-20T09:30`. */
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

/** Returns e.g. `in 3 days` or `10 days ago`. */
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
  return seconds > 0 ? words.time.soon : words.time.justNow
}
