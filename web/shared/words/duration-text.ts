/** Prints a duration as in documents, e.g. `10m`, in the largest unit that fits. */
export function durationText(milliseconds: number): string {
  for (const [unit, size] of [
    ['d', 86_400_000],
    ['h', 3_600_000],
    ['m', 60_000],
  ] as const)
    if (milliseconds >= size && milliseconds % size === 0) return `${milliseconds / size}${unit}`
  return `${Math.round(milliseconds / 1_000)}s`
}
