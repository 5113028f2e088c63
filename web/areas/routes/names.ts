/** Names for new routes. */

/** The name itself, or the first of `name-2`, `name-3` … that is free. */
export function numberedName(wanted: string, taken: readonly string[]): string {
  if (!taken.includes(wanted)) return wanted
  for (let number = 2; ; number++) if (!taken.includes(`${wanted}-${number}`)) return `${wanted}-${number}`
}
