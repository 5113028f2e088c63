/** Types of parameters. A type decides which text matches and which value queries receive. */
import type { ParameterType } from '../../shapes/schemas.ts'

export type ParameterValue = string | number

export interface ParameterRule {
  /** What the text must be, as part of a sentence: “… is not a month from 1 to 12”. */
  meaning: string
  /**
   * Source of the regular expression for the percent-encoded text. It matches in linear time, has no capturing groups,
   * and lists longer alternatives first.
   */
  source: string
  /** Returns the value of a decoded text that matched. */
  read(text: string): ParameterValue
}

const asText = (text: string) => text
const SEGMENT = '[^\\/]+'

const wholeNumber = (meaning: string, source: string): ParameterRule => ({
  meaning,
  source,
  read: Number,
})

/**
 * The range of PostgreSQL's integer, the type of every id: -2147483648 to 2147483647. All ranges are part of the
 * regular expressions, so that a pattern matches exactly its language (see `analysis/language.ts`).
 */
const INTEGER =
  '-2147483648|-?(?:214748364[0-7]|21474836[0-3][0-9]|2147483[0-5][0-9]{2}|214748[0-2][0-9]{3}|21474[0-7][0-9]{4}|2147[0-3][0-9]{5}|214[0-6][0-9]{6}|21[0-3][0-9]{7}|20[0-9]{8}|[01][0-9]{9}|[0-9]{1,9})'

export const PARAMETER_RULES: Readonly<Record<ParameterType, ParameterRule>> = {
  text: { meaning: 'text without “/”', source: SEGMENT, read: asText },
  slug: {
    meaning: 'lower-case letters, digits and single hyphens',
    source: '[a-z0-9]+(?:-[a-z0-9]+)*',
    read: asText,
  },
  integer: wholeNumber('an integer from -2147483648 to 2147483647', INTEGER),
  number: {
    meaning: 'a decimal number',
    source: '-?[0-9]{1,15}(?:\\.[0-9]{1,15})?',
    read: Number,
  },
  uuid: {
    meaning: 'a UUID',
    source: '[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}',
    read: (text) => text.toLowerCase(),
  },
  year: wholeNumber('a four-digit year', '[0-9]{3}[1-9]|[0-9]{2}[1-9]0|[0-9][1-9]00|[1-9]000'),
  month: wholeNumber('a month from 1 to 12', '1[0-2]|0?[1-9]'),
  day: wholeNumber('a day from 1 to 31', '[12][0-9]|3[01]|0?[1-9]'),
  path: { meaning: 'one or more path segments', source: '[^\\/]+(?:\\/[^\\/]+)*', read: asText },
}
