/** Notes on wall-clock times that do not exist in a zone, or that occur twice. */
import { wallTime } from '../../../../core/content/times.ts'
import { words } from '../words.ts'
import { wallTimeOf } from './wall-time.ts'

const HOUR = 3_600_000

/**
 * Returns a note as a sentence, or undefined for a time that occurs once.
 * @param wall e.g. `2027-03-28T01:30`
 */
export function wallTimeNote(wall: string, timeZone: string): string | undefined {
  const found = /^(\d{4})-(\d{2})-(\d{2})T(\d{2}):(\d{2})/.exec(wall)
  if (!found) return undefined
  const [year = 0, month = 1, day = 1, hour = 0, minute = 0] = found.slice(1).map(Number)
  const instant = wallTime(year, month, day, hour, minute, timeZone)
  const shown = wallTimeOf(instant.toISOString(), timeZone)
  const time = wall.slice(11, 16)
  if (shown !== wall.slice(0, 16)) return words.time.missing(time, timeZone, shown.slice(11))
  // Clocks go back by half an hour on Lord Howe Island, by an hour elsewhere.
  for (const later of [HOUR / 2, HOUR, 2 * HOUR])
    if (wallTimeOf(new Date(instant.getTime() + later).toISOString(), timeZone) === shown)
      return words.time.twice(time, timeZone)
  return undefined
}
