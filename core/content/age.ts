/** How long ago something was, in words. */
import { formatDistanceStrict } from 'date-fns'

/** E.g. `3 hours ago`; under a minute, or in the future by a clock's error, `just now`. */
export function ageInWords(at: Date, now: Date): string {
  if (now.getTime() - at.getTime() < 60_000) return 'just now'
  return formatDistanceStrict(at, now, { addSuffix: true, roundingMethod: 'floor' })
}
