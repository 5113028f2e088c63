/** Compares dates that readers see with those that machines read. */
import { offsetAt } from '../content/times.ts'

/** The names of months in a language, January first, each in several forms, in lower case. */
export type MonthNames = readonly (readonly string[])[]

/** Returns the names of months in a language (Unicode CLDR, as the runtime has it). */
export function monthNames(language: string): MonthNames {
  const forms = [
    { month: 'long' },
    { month: 'short' },
    // In a date, some languages inflect the name.
    { month: 'long', day: 'numeric' },
    { month: 'short', day: 'numeric' },
  ] as const
  const formats = forms.map((one) => new Intl.DateTimeFormat(language, { ...one, timeZone: 'UTC' }))
  return Array.from({ length: 12 }, (_, month) => [
    ...new Set(
      formats.map((one) => {
        const parts = one.formatToParts(new Date(Date.UTC(2026, month, 15)))
        return (parts.find(({ type }) => type === 'month')?.value ?? '').toLowerCase().replace(/\.$/, '')
      }),
    ),
  ])
}

/** Returns the months, 1 to 12, whose names a text has as whole words. */
export function monthsIn(text: string, names: MonthNames): number[] {
  const words = new Set(text.toLowerCase().match(/\p{L}[\p{L}\p{M}]*/gu) ?? [])
  return names.flatMap((forms, index) => (forms.some((one) => words.has(one)) ? [index + 1] : []))
}

/** Texts without them are no dates, such as “3 days ago”. */
const YEAR = /(?<!\d)\d{4}(?!\d)/g
const IN_NUMBERS = /(?<!\d)\d{1,4}([./-])\d{1,2}\1\d{1,4}(?!\d)/
/** Longer texts are not those of a date. */
const LONGEST = 100

/**
 * Returns the day of a time if the text beside it is another date; undefined if it may be the same one. Only years, names of
 * months and days are compared, because their order and the digits of the time of day differ between formats.
 * @param time as in `datetime`
 */
export function contradictedDay(
  time: string,
  text: string,
  { months, timeZone }: { months: MonthNames; timeZone: string },
): string | undefined {
  if (text.length > LONGEST || !/^\s*\d{4}-\d\d-\d\d/.test(time)) return undefined
  const instant = Date.parse(time.trim())
  if (Number.isNaN(instant)) return undefined
  const isDay = !/[T ]\d\d:/.test(time.trim())
  const day = new Date(isDay ? instant : instant + offsetAt(instant, timeZone)).toISOString().slice(0, 10)
  const [year = 0, month = 0, dayOfMonth = 0] = day.split('-').map(Number)
  const years = (text.match(YEAR) ?? []).map(Number)
  const named = monthsIn(text, months)
  if (years.length !== 1) return undefined
  if (years[0] !== year) return named.length > 0 || IN_NUMBERS.test(text) ? day : undefined
  // In numbers, the month may be first.
  if (named.length !== 1) return undefined
  const numbers = (text.match(/\d+/g) ?? []).map(Number).filter((one) => one !== year)
  const isDayWrong = numbers.length > 0 && !numbers.includes(dayOfMonth)
  return named[0] !== month || isDayWrong ? day : undefined
}
