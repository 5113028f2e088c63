/** When a text that tells the time changes by itself. */

/** Steps by which texts of times change, in milliseconds: a text with days only is asked again every quarter of an hour. */
const STEPS = [1, 1_000, 60_000, 900_000]

/**
 * Returns the time until which a text surely stays as it is, in milliseconds since 1970.
 *
 * Texts of times change at whole milliseconds, seconds, minutes or quarters of an hour, by the clock or since a moment. A
 * text that is the same a step later may still change within the step, so the next step is looked at in full.
 * @param textAt the text at a time
 */
export function nextChange(now: Date, textAt: (then: Date) => string): number {
  const start = now.getTime()
  const text = textAt(now)
  const isSame = (at: number) => textAt(new Date(at)) === text
  let certain = start
  for (const step of STEPS) {
    if (!isSame(start + step)) return firstChange(certain, start + step, isSame)
    certain = start + step
  }
  return certain
}

/** Finds the first millisecond at which a text is another one, between one at which it is the same and one at which not. */
function firstChange(same: number, other: number, isSame: (at: number) => boolean): number {
  let [from, to] = [same, other]
  while (to - from > 1) {
    const middle = Math.floor((from + to) / 2)
    if (isSame(middle)) from = middle
    else to = middle
  }
  return to
}
