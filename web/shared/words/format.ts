/** Formats figures, times and names for people. */

export const formatMilliseconds = (value: number) =>
  `${value >= 100 ? value.toFixed(0) : value >= 10 ? value.toFixed(1) : value.toFixed(2)} ms`

/** Returns e.g. `17.4 s`, or milliseconds below a second. */
export const formatElapsed = (milliseconds: number) =>
  milliseconds >= 1_000 ? `${(milliseconds / 1_000).toFixed(1)} s` : formatMilliseconds(milliseconds)

export const formatBytes = (value: number) =>
  value < 1000
    ? `${value} B`
    : value < 1_000_000
      ? `${(value / 1000).toFixed(1)} kB`
      : `${(value / 1_000_000).toFixed(1)} MB`

/** Returns e.g. `3 d`, `2 h`, `12 min` or `4 s`, in the largest unit that gives at least one. */
export function formatSpan(milliseconds: number): string {
  const seconds = Math.max(0, Math.round(milliseconds / 1000))
  if (seconds < 60) return `${seconds} s`
  if (seconds < 3600) return `${Math.floor(seconds / 60)} min`
  return seconds < 86_400 ? `${Math.floor(seconds / 3600)} h` : `${Math.floor(seconds / 86_400)} d`
}

/** Returns e.g. 1st, 2nd, 3rd, 4th, 11th. */
export function ordinal(value: number): string {
  const tens = value % 100
  const ending = tens >= 11 && tens <= 13 ? 'th' : (['th', 'st', 'nd', 'rd'][value % 10] ?? 'th')
  return `${value}${ending}`
}

/** Adds a capital letter and a full stop to a part of a sentence. */
export const asSentence = (text: string) => {
  const capital = text.charAt(0).toUpperCase() + text.slice(1)
  return /[.?!]$/.test(text) ? capital : `${capital}.`
}

const DATE = { day: 'numeric', month: 'short', year: 'numeric' } as const
const TIME = { hour: '2-digit', minute: '2-digit' } as const

type Moment = string | number | Date

/** Months have three letters, as in date pickers. English in the locale data of browsers has “Sept”. */
const shortMonths = (text: string) => text.replace('Sept', 'Sep')

/** Returns e.g. `26 Nov 2026`. @param timeZone of the blog; the browser's if absent */
export const formatDate = (moment: Moment, timeZone?: string): string =>
  shortMonths(
    new Date(moment).toLocaleDateString('en-GB', {
      ...DATE,
      ...(timeZone === undefined ? {} : { timeZone }),
    }),
  )

/** Returns e.g. `26 Nov 2026, 10:05`. @param timeZone of the blog; the browser's if absent */
export const formatDateTime = (moment: Moment, timeZone?: string): string =>
  shortMonths(
    new Date(moment).toLocaleString('en-GB', {
      ...DATE,
      ...TIME,
      ...(timeZone === undefined ? {} : { timeZone }),
    }),
  )

/** Returns e.g. `10:05:09`. */
export const formatClock = (moment: Moment): string => new Date(moment).toLocaleTimeString('en-GB')

export const plural = (count: number, one: string, many = `${one}s`) =>
  `${count.toLocaleString('en-GB')} ${count === 1 ? one : many}`

/** Returns e.g. `6 rows of about 41,000`. @param total null if rows are not counted */
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

/** The maximum length of a name, in characters. */
const NAME_LIMIT = 60

/** Converts a text to a name of a document: lower-case letters, digits and single hyphens. */
export const documentNameOf = (typed: string): string =>
  typed
    .normalize('NFKD')
    .replace(/\p{Mark}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, NAME_LIMIT)
