/** Times as `2026-02-28T09:00:00.000Z`. */

const DAY = 86_400_000
/** Days that are remembered: a page prints few, and another day starts over once there are this many. */
const REMEMBERED_DAYS = 1_000
const days = new Map<number, string>()

const TWO = Array.from({ length: 60 }, (_, number) => String(number).padStart(2, '0'))
const two = (number: number): string => TWO[Math.floor(number)] ?? ''

/** @param day in days since 1970 */
function dayText(day: number): string {
  const known = days.get(day)
  if (known !== undefined) return known
  if (days.size >= REMEMBERED_DAYS) days.clear()
  const text = new Date(day * DAY).toISOString().slice(0, -13)
  days.set(day, text)
  return text
}

/**
 * Returns what `toISOString` returns (ECMA-262, “Date Time String Format”). Lists print a time for each row, for which that
 * takes about seven times as long.
 * @throws RangeError for an invalid date
 */
export function isoTime(date: Date): string {
  const instant = date.getTime()
  if (Number.isNaN(instant)) return date.toISOString()
  const day = Math.floor(instant / DAY)
  const rest = instant - day * DAY
  const milliseconds = rest % 1_000
  const fraction = milliseconds === 0 ? '000' : String(milliseconds).padStart(3, '0')
  return `${dayText(day)}${two(rest / 3_600_000)}:${two((rest / 60_000) % 60)}:${two((rest / 1_000) % 60)}.${fraction}Z`
}
