/** Durations as written in documents: `45s`, `30m`, `1h`, `7d`. */
const UNITS: Readonly<Record<string, number>> = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 }

/** Returns milliseconds, or undefined if the text is not a duration. */
export function readDuration(text: string): number | undefined {
  const found = /^(0|[1-9][0-9]{0,6})(s|m|h|d)$/.exec(text)
  return found ? Number(found[1]) * (UNITS[found[2] ?? ''] ?? NaN) : undefined
}
