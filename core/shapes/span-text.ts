/** Says how long something lasts, for sentences: `45 seconds`, `10 minutes`, `1 hour`, `3 days`. */
const UNITS = [
  ['day', 86_400_000],
  ['hour', 3_600_000],
  ['minute', 60_000],
  ['second', 1_000],
] as const

/** Of a unit, this much is said as a whole one. */
const NEARLY = 0.95

/** @returns the time in the largest unit that gives nearly one at least, rounded */
export function spanText(milliseconds: number): string {
  const [unit, size] = UNITS.find(([, one]) => milliseconds >= NEARLY * one) ?? ['second', 1_000]
  const count = Math.round(milliseconds / size)
  return `${count.toLocaleString('en-GB')} ${unit}${count === 1 ? '' : 's'}`
}
