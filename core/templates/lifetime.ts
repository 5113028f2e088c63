/** Lifetimes of fragments, from one second to 366 days. */
import { readDuration } from '../shapes/duration.ts'

const LONGEST = 366 * 86_400_000

/** Returns milliseconds, or undefined if the text is not a lifetime. */
export function readLifetime(text: string): number | undefined {
  const milliseconds = readDuration(text) ?? 0
  return milliseconds > 0 && milliseconds <= LONGEST ? milliseconds : undefined
}
