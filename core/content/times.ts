/** Times in content files: absolute (ISO 8601) or relative to the day of import, in the blog's time zone. */

const RELATIVE = /^([+-]?\d{1,4}) days?(?: (\d{2}):(\d{2}))?$/
const ABSOLUTE = /^\d{4}-\d{2}-\d{2}(?:[T ]\d{2}:\d{2}(?::\d{2}(?:\.\d+)?)?(?:Z|[+-]\d{2}:?\d{2})?)?$/

/** Making one costs a hundred times more than using it. */
const formats = new Map<string, Intl.DateTimeFormat>()
function formatFor(timeZone: string): Intl.DateTimeFormat {
  const known = formats.get(timeZone)
  if (known) return known
  const numeric = 'numeric' as const
  const made = new Intl.DateTimeFormat('en-GB', {
    timeZone,
    hourCycle: 'h23',
    year: numeric,
    month: numeric,
    day: numeric,
    hour: numeric,
    minute: numeric,
    second: numeric,
  })
  formats.set(timeZone, made)
  return made
}

/** Offset of a time zone at an instant, in milliseconds east of UTC. */
export function offsetAt(instant: number, timeZone: string): number {
  const parts = formatFor(timeZone).formatToParts(instant)
  const part = (type: Intl.DateTimeFormatPartTypes) => Number(parts.find((one) => one.type === type)?.value)
  const wall = Date.UTC(
    part('year'),
    part('month') - 1,
    part('day'),
    part('hour'),
    part('minute'),
    part('second'),
  )
  return wall - Math.floor(instant / 1000) * 1000
}

/**
 * The instant of a wall-clock time in a zone. In the hour that does not exist the clock is taken as not yet moved
 * (the time lands after the gap); in the hour that exists twice, the first one.
 */
export function wallTime(
  year: number,
  month: number,
  day: number,
  hour: number,
  minute: number,
  timeZone: string,
): Date {
  const wall = Date.UTC(year, month - 1, day, hour, minute)
  const candidates = [offsetAt(wall - 86_400_000, timeZone), offsetAt(wall + 86_400_000, timeZone)].map(
    (offset) => wall - offset,
  )
  const exact = candidates.filter((instant) => instant + offsetAt(instant, timeZone) === wall)
  return new Date(exact.length > 0 ? Math.min(...exact) : (candidates[0] ?? wall))
}

/**
 * Reads a time of a content file.
 * @param text `2026-11-20`, `2026-11-20T09:30`, with or without an offset, `-3 days 09:30`, or `now`
 * @returns undefined when the text is no time
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
  if (!ABSOLUTE.test(text)) return undefined
  const parsed = new Date(text.replace(' ', 'T'))
  if (Number.isNaN(parsed.getTime())) return undefined
  if (/(?:Z|[+-]\d{2}:?\d{2})$/.test(text) && text.length > 10) return parsed
  const [date = '', time = '00:00'] = text.split(/[T ]/)
  const [year = 1970, month = 1, day = 1] = date.split('-').map(Number)
  const [hour = 0, minute = 0] = time.split(':').map(Number)
  return wallTime(year, month, day, hour, minute, timeZone)
}

/** True for a name that Intl knows as a time zone. */
export function isTimeZone(name: string): boolean {
  // Offsets are no zones, and databases read their signs the other way round.
  if (!/^[A-Za-z]/.test(name)) return false
  try {
    new Intl.DateTimeFormat('en', { timeZone: name })
    return true
  } catch {
    return false
  }
}
