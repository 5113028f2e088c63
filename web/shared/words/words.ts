/** Figures as people read them. */

export const formatMilliseconds = (value: number) =>
  `${value >= 100 ? value.toFixed(0) : value >= 10 ? value.toFixed(1) : value.toFixed(2)} ms`

export const formatBytes = (value: number) =>
  value < 1000
    ? `${value} B`
    : value < 1_000_000
      ? `${(value / 1000).toFixed(1)} kB`
      : `${(value / 1_000_000).toFixed(1)} MB`

/** `3 d`, `2 h`, `12 min`, `4 s`: the largest unit that gives at least one. */
export function formatSpan(milliseconds: number): string {
  const seconds = Math.max(0, Math.round(milliseconds / 1000))
  if (seconds < 60) return `${seconds} s`
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min`
  return seconds < 86_400 ? `${Math.floor(seconds / 3600)} h` : `${Math.floor(seconds / 86_400)} d`
}

/** 1st, 2nd, 3rd, 4th, 11th … */
export function ordinal(value: number): string {
  const tens = value % 100
  const ending = tens >= 11 && tens <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][value % 10] ?? 'th')
  return `${value}${ending}`
}

/** With a capital letter, unless it begins with something that has none, and a full stop. */
export const asSentence = (text: string) => {
  const capital = text.charAt(0).toUpperCase() + text.slice(1)
  return /[.?!]$/.test(text) ? capital : `${capital}.`
}

export const plural = (count: number, one: string, many = `${one}s`) => `${count} ${count === 1 ? one : many}`

/** How many rows came, and of how many. @param total null where nothing was counted */
export function rowsOf({
  rows,
  total,
  isEstimated,
}: {
  rows: number
  total: number | null
  isEstimated: boolean
}): string {
  const of = total === null ? '' : ` of ${isEstimated ? 'about ' : ''}${total.toLocaleString('en-GB')}`
  return `${plural(rows, 'row')}${of}`
}

/** Longest name of a query that the API tries, in characters. */
const LONGEST_NAME = 60

/** Small letters, digits and single hyphens, as names of documents are. */
export const plainName = (typed: string): string =>
  typed
    .normalize('NFKD')
    .replace(/\p{Mark}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, LONGEST_NAME)
