/** Faults in the use of filters that follow from the types of their values. */
import type { FilterCall, Operand } from '../tree.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import type { ExpressionFault, FaultKind } from './faults.ts'
import { kindInWords, type Type } from './type.ts'

export interface FilterFault {
  /** The fault, as a sentence. */
  message: string
  /** How to correct it, as a sentence. */
  hint?: string
}

/** Filters that fail for values of some types. A value of an unknown type may be right, and an empty one prints nothing. */
const FAILS: Readonly<Record<string, (input: Type) => FilterFault | undefined>> = {
  raw: ({ kind }) =>
    kind === 'html' || kind === 'unknown' || kind === 'nothing'
      ? undefined
      : TEMPLATE_PROBLEMS['template-raw-not-safe'](),
  picture: (input) =>
    input.kind === 'unknown' || input.kind === 'nothing' || (input.kind === 'row' && input.name === 'image')
      ? undefined
      : TEMPLATE_PROBLEMS['template-picture-of'](article(kindInWords(input))),
  structured_data: (input) =>
    input.kind === 'unknown' ||
    input.kind === 'nothing' ||
    (input.kind === 'row' && ['post', 'blog'].includes(input.name))
      ? undefined
      : TEMPLATE_PROBLEMS['template-structured-data-of'](article(kindInWords(input))),
}

/** Filters that print nonsense for values of some types. */
const MISREADS: Readonly<Record<string, (input: Type, subject: string) => FilterFault | undefined>> = {
  reading_minutes: ({ kind }, subject) =>
    ['text', 'html', 'list', 'date', 'row'].includes(kind) || /\.(?!wordCount$)\w+Count$/.test(subject)
      ? {
          message: `“reading_minutes” takes the number of words, and “${subject}” is something else.`,
          hint: 'Print {{ post.wordCount | reading_minutes }}.',
        }
      : undefined,
  ...Object.fromEntries(
    [
      ...[
        'excerpt',
        'truncate',
        'truncatewords',
        'strip_html',
        'upcase',
        'downcase',
        'capitalize',
        'markdown',
      ],
      ...['newline_to_br', 'slugify', 'number_of_words'],
    ].map((name) => [name, (input: Type, subject: string) => textExpected(name, input, subject)]),
  ),
}

/** Returns the fault of a filter for texts whose value is a row or a list. */
const textExpected = (filter: string, input: Type, subject: string): FilterFault | undefined =>
  input.kind === 'row' || (input.kind === 'list' && input.of.kind !== 'unknown')
    ? {
        message: `“${filter}” takes a text, and “${subject}” is ${article(kindInWords(input))}.`,
        hint: 'Name one of its fields, such as its title or text.',
      }
    : undefined

const article = (noun: string) => `${/^[aeio]/i.test(noun) ? 'an' : 'a'} ${noun}`

/** Returns the faults of a filter. @param where the path of its value, or its own name */
export function filterFaults(
  filter: FilterCall,
  input: Type,
  where: Pick<ExpressionFault, 'place' | 'subject'>,
): ExpressionFault[] {
  const { subject } = where
  const found: ExpressionFault[] = []
  const add = (kind: FaultKind, fault: FilterFault | undefined) =>
    fault && found.push({ ...where, kind, fault })
  add('filter-fails', FAILS[filter.name]?.(input))
  add('filter-misreads', MISREADS[filter.name]?.(input, subject))
  if (filter.name !== 'date') return found
  add('date-format-wrong', formatFault(filter))
  add('date-format-wrong', noDate(input, subject))
  return found
}

/** Returns the fault of a text of a row that is formatted as a date. */
function noDate(input: Type, subject: string): FilterFault | undefined {
  // Parameters and names of months may be dates.
  if (!['text', 'html'].includes(input.kind) || !/\.(title|name|slug|excerpt|html|text|about)$/.test(subject))
    return undefined
  return {
    message: `“${subject}” is a ${kindInWords(input)}, not a date.`,
    hint: 'Format a date such as post.publishedAt.',
  }
}

/** A month where minutes belong: `%H:%m`. */
const MONTH_FOR_MINUTE = /%[-_^#]*[HIkl]\s*[:.h]\s*%[-_^#]*m/
/** Seconds where minutes belong: `%H:%S`. */
const SECOND_FOR_MINUTE = /%[-_^#]*[HIkl]\s*[:.h]\s*%[-_^#]*S/
/** Minutes where a month belongs: `%Y-%M`, `%d.%M`. */
const MINUTE_FOR_MONTH = /%[-_^#]*[Yyde]\s*[-./]\s*%[-_^#]*M|%[-_^#]*M\s*[-./]\s*%[-_^#]*[Yyde]/
/** A conversion, with its flags, width and modifier, as liquidjs reads it. */
const CONVERSION = /%[-_0^#:]*\d*[EO]?(.)/gs
/** The conversions of liquidjs. It prints others as they are. */
export const CONVERSIONS = 'aAbBcCdehHIjklLmMnNpPqsStuUwWxXyYzZ%'

/** Returns what is wrong with the format of a date; undefined if nothing is, or if it is computed. */
function formatFault({ arguments: [format] }: FilterCall): FilterFault | undefined {
  const text = literalText(format?.value)
  if (text === undefined || text === '') return undefined
  const example = 'A format such as %-d %B %Y prints 2 March 2026.'
  const conversions = [...text.matchAll(CONVERSION)].map(([, one = '']) => one)
  if (conversions.length === 0)
    return { message: `The date format “${text}” prints the same text for every date.`, hint: example }
  const unknown = conversions.find((one) => !CONVERSIONS.includes(one))
  if (unknown !== undefined)
    return { message: `The date format “${text}” has the unknown conversion “%${unknown}”.`, hint: example }
  if (MONTH_FOR_MINUTE.test(text))
    return {
      message: `The date format “${text}” prints the month after the hour.`,
      hint: '%M is the minute.',
    }
  if (SECOND_FOR_MINUTE.test(text))
    return {
      message: `The date format “${text}” prints the second after the hour.`,
      hint: '%M is the minute.',
    }
  if (/(?<![:.h])\s%[-_^#]*[HkIl]$/.test(text) && /%[-_^#]*[Bbm]/.test(text) && !/%[-_^#]*[Yy]/.test(text))
    return {
      message: `The date format “${text}” ends with the hour, where a year belongs.`,
      hint: '%Y is the year.',
    }
  const hasHour = conversions.some((one) => 'HIklcrRTX'.includes(one))
  const hasDate = conversions.some((one) => 'YydeBbhj'.includes(one))
  if (MINUTE_FOR_MONTH.test(text) || (conversions.includes('M') && hasDate && !hasHour))
    return {
      message: `The date format “${text}” prints the minute where a month belongs.`,
      hint: '%m is the month.',
    }
  return undefined
}

/** Returns the text of a literal; undefined for other operands. */
export const literalText = (operand: Operand | undefined): string | undefined =>
  operand?.kind === 'literal' && typeof operand.value === 'string' ? operand.value : undefined

/** Returns the number of a literal; undefined for other operands. */
export const literalNumber = (operand: Operand | undefined): number | undefined =>
  operand?.kind === 'literal' && typeof operand.value === 'number' ? operand.value : undefined
