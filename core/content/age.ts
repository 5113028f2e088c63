/** Ages in words. */
import { formatDistanceStrict } from 'date-fns'

/** Returns e.g. `3 hours ago`, or `just now` for less than a minute and for times that a skewed clock puts in the future. */
export function ageInWords(at: Date, now: Date): string {
  if (now.getTime() - at.getTime() < 60_000) return 'just now'
  return formatDistanceStrict(at, now, { addSuffix: true, roundingMethod: 'floor' })
}
