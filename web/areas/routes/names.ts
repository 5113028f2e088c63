/** Names for new routes. */

/** Returns the name itself, or the first free one of `name-2`, `name-3` and so on. */
export function numberedName(wanted: string, taken: readonly string[]): string {
  if (!taken.includes(wanted)) return wanted
  for (let number = 2; ; number++) if (!taken.includes(`${wanted}-${number}`)) return `${wanted}-${number}`
}
