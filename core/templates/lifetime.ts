/** Lifetimes as written in templates: `45s`, `30m`, `1h`, `7d`. */
const UNITS: Readonly<Record<string, number>> = { s: 1_000, m: 60_000, h: 3_600_000, d: 86_400_000 }

/** Returns milliseconds, or undefined if the text is not a lifetime from one second to 366 days. */
export function readLifetime(text: string): number | undefined {
  const found = /^([1-9][0-9]{0,6})(s|m|h|d)$/.exec(text)
  const milliseconds = Number(found?.[1]) * (UNITS[found?.[2] ?? ''] ?? NaN)
  return milliseconds <= 366 * 86_400_000 ? milliseconds : undefined
}
