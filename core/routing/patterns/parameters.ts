/** Typed parameters: each type decides which text matches and which value a query receives. */
import type { ParameterType } from '../../shapes/schemas.ts'

export type ParameterValue = string | number

export interface ParameterRule {
  /** In a reader's words, for reasons: “month” is … */
  meaning: string
  /**
   * Regular expression source matched against the percent-encoded text: linear, without capturing groups, longer
   * alternatives first.
   */
  source: string
  /** Value of a decoded text that matched. */
  read(text: string): { ok: true; value: ParameterValue } | { ok: false; reason: string }
}

const asText = (text: string) => ({ ok: true as const, value: text })
const SEGMENT = '[^\\/]+'

const wholeNumber = (meaning: string, source: string): ParameterRule => ({
  meaning,
  source,
  read: (text) => ({ ok: true, value: Number(text) }),
})

/**
 * What PostgreSQL's integer, the type of every id, can hold: -2147483648 to 2147483647. All ranges stand in the
 * regular expressions themselves, so that what a pattern matches is exactly its language (see `language.ts`).
 */
const INTEGER =
  '-2147483648|-?(?:214748364[0-7]|21474836[0-3][0-9]|2147483[0-5][0-9]{2}|214748[0-2][0-9]{3}|21474[0-7][0-9]{4}|2147[0-3][0-9]{5}|214[0-6][0-9]{6}|21[0-3][0-9]{7}|20[0-9]{8}|[01][0-9]{9}|[0-9]{1,9})'

export const PARAMETER_RULES: Readonly<Record<ParameterType, ParameterRule>> = {
  text: { meaning: 'any text within one segment', source: SEGMENT, read: asText },
  slug: {
    meaning: 'lower-case letters, digits and single hyphens',
    source: '[a-z0-9]+(?:-[a-z0-9]+)*',
    read: asText,
  },
  integer: wholeNumber('a whole number from -2147483648 to 2147483647', INTEGER),
  number: {
    meaning: 'a decimal number',
    source: '-?[0-9]{1,15}(?:\\.[0-9]{1,15})?',
    read: (text) => ({ ok: true, value: Number(text) }),
  },
  uuid: {
    meaning: 'a UUID',
    source: '[0-9a-fA-F]{8}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{4}-[0-9a-fA-F]{12}',
    read: (text) => ({ ok: true, value: text.toLowerCase() }),
  },
  year: wholeNumber('a year of four digits', '[0-9]{3}[1-9]|[0-9]{2}[1-9]0|[0-9][1-9]00|[1-9]000'),
  month: wholeNumber('a month, 1 to 12', '1[0-2]|0?[1-9]'),
  day: wholeNumber('a day, 1 to 31', '[12][0-9]|3[01]|0?[1-9]'),
  path: { meaning: 'the rest of the path', source: '[^\\/]+(?:\\/[^\\/]+)*', read: asText },
}
