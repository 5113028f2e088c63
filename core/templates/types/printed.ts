/** Faults in what templates print: nothing, a technical value, or a text that has lost its markup. */
import { pathText, rowOf, type NodeOf, type Path } from '../tree.ts'
import type { FaultKind } from './faults.ts'
import { literalNumber, literalText, type FilterFault } from './filter-faults.ts'
import { kindInWords, type Type } from './type.ts'

export interface Printed {
  expression: NodeOf<'output'>['expression']
  /** The path that is printed; undefined for other operands. */
  path: string | undefined
  /** The type of the value, and of the row whose field it is. */
  type: Type
  row: Type
  /** Whether readers see it as it is: it is not in a tag, in code or in a field. */
  isShown: boolean
  /** Whether it is in an attribute that readers see or hear. */
  isHeard: boolean
  /** Whether it is the start of the text of a link. */
  isLinkText: boolean
  /** Whether it is the current time, and is printed for each row of a list. */
  isNowInLoop: boolean
}

/** A long text that is cut to less says nothing. Others may be: the first letter of a name, the day of a time. */
const FEWEST_CHARACTERS = 12
const FEWEST_WORDS = 3
const LONG_TEXT = /\.(excerpt|html|text|about|title)$/

const CUTTING = new Set(['excerpt', 'truncate', 'truncatewords'])

/** Returns the faults of an output that follow from its type alone. */
export function printedFaults(printed: Printed): { kind: FaultKind; fault: FilterFault }[] {
  const found: { kind: FaultKind; fault: FilterFault }[] = []
  const add = (kind: FaultKind, fault: FilterFault | undefined) => fault && found.push({ kind, fault })
  add('row-printed', rowPrinted(printed))
  add('slug-shown', slugShown(printed))
  add('markup-lost', markupLost(printed))
  add('now-in-loop', nowInLoop(printed))
  add('cut-to-nothing', cutToNothing(printed))
  add('escaped-twice', escapedTwice(printed))
  add('date-format-wrong', secondsShown(printed))
  return found
}

const SHOWN_FIELDS = ['name', 'title']
const nameField = (row: Type) =>
  row.kind === 'row' ? SHOWN_FIELDS.find((one) => row.fields.has(one)) : undefined

function rowPrinted({ path, type, expression }: Printed): FilterFault | undefined {
  if (path === undefined || expression.filters.length > 0) return undefined
  const of = type.kind === 'list' ? type.of : type
  if (of.kind !== 'row') return undefined
  const field = nameField(of)
  const example = field === undefined ? '' : `, such as ${path}.${field}`
  return {
    message: `“${path}” is a ${kindInWords(type)}, which prints nothing.`.replace(/ a ([aeio])/, ' an $1'),
    hint:
      type.kind === 'list' ? `Loop over it: {% for one in ${path} %}.` : `Print one of its fields${example}.`,
  }
}

function slugShown({
  path,
  row,
  isShown,
  isHeard,
  isLinkText,
  expression,
}: Printed): FilterFault | undefined {
  const field = nameField(row)
  // A path may be shown as the address that it is.
  const [, technical] = (isLinkText ? /\.(slug|path)$/ : /\.(slug)$/).exec(path ?? '') ?? []
  if (
    !(isShown || isHeard) ||
    field === undefined ||
    expression.filters.length > 0 ||
    technical === undefined
  )
    return undefined
  return {
    message: `“${path ?? ''}” shows readers a ${technical}.`,
    hint: `Print {{ ${(path ?? '').replace(/\w+$/, field)} }}.`,
  }
}

function markupLost({ path, isShown, expression: { filters } }: Printed): FilterFault | undefined {
  if (
    !isShown ||
    filters.length !== 1 ||
    filters[0]?.name !== 'strip_html' ||
    path?.endsWith('.html') !== true
  )
    return undefined
  return {
    message: `“${path}” loses its paragraphs, links and images here.`,
    hint: `Print {{ ${path} }}, or a short text: {{ ${path} | strip_html | excerpt: 150 }}.`,
  }
}

function nowInLoop({ isNowInLoop, expression: { filters } }: Printed): FilterFault | undefined {
  if (!isNowInLoop || filters.some((one) => one.name !== 'date')) return undefined
  return {
    message: '“now” is the current time, which is the same for each row of the list.',
    hint: 'Print a date of the row, such as post.publishedAt.',
  }
}

function escapedTwice({ expression: { filters } }: Printed): FilterFault | undefined {
  if (filters.at(-1)?.name !== 'escape') return undefined
  return {
    message: 'What is printed is escaped anyway, so with “escape” readers see &amp; for &.',
    hint: 'Remove the filter “escape”.',
  }
}

function secondsShown({ isShown, expression: { filters } }: Printed): FilterFault | undefined {
  const format = literalText(filters.find((one) => one.name === 'date')?.arguments[0]?.value)
  if (!isShown || format?.includes('%s') !== true) return undefined
  return {
    message: `The date format “${format}” shows readers the seconds since 1970.`,
    hint: 'A format such as %-d %B %Y prints 2 March 2026.',
  }
}

function cutToNothing({ path, expression: { filters } }: Printed): FilterFault | undefined {
  const filter = filters.find((one) => CUTTING.has(one.name))
  const length = literalNumber(filter?.arguments[0]?.value)
  const unit = filter?.name === 'truncatewords' ? 'word' : 'character'
  // One letter of a title is meant as an initial.
  const isInitial = length === 1 && path?.endsWith('.title') === true
  const isLong = LONG_TEXT.test(path ?? '') && !isInitial
  const least = !isLong ? 1 : unit === 'word' ? FEWEST_WORDS : FEWEST_CHARACTERS
  if (!filter || length === undefined || length >= least) return undefined
  const left = length < 1 ? 'nothing' : `only ${length} ${unit}${length === 1 ? '' : 's'}`
  return {
    message: `“${filter.name}: ${length}” leaves ${left} of the text.`,
    hint: 'The number is the length that remains.',
  }
}

/** An output that prints the number of rows on a page, or the number of all rows. @param typeOf returns the type of a path */
export function countPrinted(
  { operands: [only], filters, postfix }: NodeOf<'output'>['expression'],
  typeOf: (steps: readonly string[]) => Type,
): { isTotal: true } | { isTotal: false; subject: string; fault: FilterFault } | undefined {
  if (only?.kind !== 'path' || postfix) return undefined
  const subject = pathText(only)
  const steps = subject.split('.')
  const isSize = filters.length === 0 && steps.at(-1) === 'size'
  if (isSize) steps.pop()
  const isCounted = isSize || (filters.length === 1 && filters[0]?.name === 'size')
  const last = steps.pop()
  if (isCounted ? last !== 'items' : last !== 'total') return undefined
  const page = typeOf(steps)
  if (page.kind !== 'row' || !page.fields.has('total') || !page.fields.has('items')) return undefined
  if (!isCounted) return { isTotal: true }
  const total = `${steps.join('.')}.total`
  const fault = {
    message: `“${subject}” is the number of rows on this page, and ${total} is the number of all rows.`,
    hint: `Print {{ ${total} }}.`,
  }
  return { isTotal: false, subject, fault }
}

/** Returns the fault of the text of a comment as it was typed, which loses its paragraphs and links. @param row its row */
export function commentAsTyped(path: Path, row: Type): FilterFault | undefined {
  const subject = pathText(path)
  if (!subject.endsWith('.text') || row.kind !== 'row' || row.name !== 'comment' || !row.fields.has('html'))
    return undefined
  return {
    message: `“${subject}” is the comment as it was typed: its paragraphs and links are lost.`,
    hint: `Print {{ ${rowOf(path).join('.')}.html }}, or shorten it: {{ ${subject} | excerpt: 80 }}.`,
  }
}

/**
 * Returns the fault of a literal where an address belongs, or of the name of a value in quotes.
 * @param routes by name @param isKnown whether there is a value of a name
 */
export function literalPrinted(
  { operands: [only], filters, postfix }: NodeOf<'output'>['expression'],
  isInAddress: boolean,
  { routes, isKnown }: { routes: ReadonlyMap<string, unknown>; isKnown: (name: string) => boolean },
): FilterFault | undefined {
  const text = literalText(only)
  if (text === undefined || text === '' || filters.length > 0 || postfix) return undefined
  const [, name] = /^(\w+)(?:\.\w+)+$/.exec(text) ?? []
  if (name !== undefined && isKnown(name))
    return {
      message: `“${text}” is in quotes, so its name is printed instead of its value.`,
      hint: `Print {{ ${text} }}.`,
    }
  if (!isInAddress) return undefined
  const filter = routes.has(text) ? 'url' : /\.\w+$/.test(text) && !text.includes('/') ? 'asset' : undefined
  if (filter === undefined) return undefined
  return {
    message: `“${text}” is printed as it is, not as an address.`,
    hint: `Print {{ '${text}' | ${filter} }}.`,
  }
}
