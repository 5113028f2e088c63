/** Finds faults in outputs and texts that follow from the markup and the branches around them. */
import { pathText, rowOf, type Expression, type NodeOf, type Path, type Place } from '../tree.ts'
import { markupPosition } from './attribute.ts'
import { constantTime, emptiedBy } from './branch-faults.ts'
import type { FaultReports } from './fault-reports.ts'
import { literalText } from './filter-faults.ts'
import { commentAsTyped, countPrinted, literalPrinted, printedFaults } from './printed.ts'
import type { ValueReader } from './read-values.ts'
import type { Position } from './scope.ts'
import { canBeEmpty, UNKNOWN, ZERO, type Type } from './type.ts'

export interface OutputPosition extends Position {
  /** Whether it is read for each row of a list. */
  isInLoop: boolean
  /** Whether it is in a branch or a loop that depends on what there is to show. */
  isConditional: boolean
}

/** The start of an element whose text is code, or what somebody typed. */
const UNSHOWN = /<(textarea|pre|code|samp|script|style)\b[^<]*$/i
/** The start of a link. */
const LINK = /<a\b[^<>]*>\s*$/i
/** The start of a `<time>` whose `datetime` is an output, which is an “x” in the markup. */
const PRINTED_TIME = /<time\b[^<>]*\bdatetime\s*=\s*["']?x["']?(?:\s[^<>]*)?>\s*$/i
/** Attributes whose values readers see or hear. */
const SHOWN_ATTRIBUTES = new Set(['title', 'alt', 'aria-label', 'placeholder'])
/** The start of a description or title of the page for others. */
const DESCRIPTION = /<meta\b[^<>]*(?:description|title)[^<>]*\bcontent="[^"<>]*$/i
/** Attributes whose values are addresses. */
const ADDRESSES = new Set(['href', 'src', 'action', 'srcset', 'formaction', 'poster'])
const TIME_FILTERS = new Set(['date', 'ago'])
/** Spaces and tags of inline elements. */
const INLINE = /^(?:\s|<\/?(?:a|b|i|em|strong|span|bdi|small|mark|u)\b[^<>]*>)*$/i
/** What follows a number of minutes. */
const MINUTES = /^\s*min(ute)?s?\b/i
/** A paragraph that says that there is nothing. */
const NOTHING_SAID = new RegExp(
  `<p\\b[^<>]*>\\s*(?:Nothing|(?:No|There (?:are|is) no) (?:posts?|comments?|results?|entries|articles?|tags?|categor(?:y|ies)|pages?))\\b(?=[^<.]*(?:\\b(?:yet|found|here|match\\w*|to show|(?:has|have) been|was|were)\\b)|\\s*[.<])`,
)

/** Reads the outputs of one page, in the order in which it prints them. */
export class OutputChecks {
  readonly #values: ValueReader
  readonly #reports: FaultReports
  /** The path of the last `datetime` that was printed. */
  #datetime: string | undefined
  /** The number of words that was printed last, if nothing followed it. */
  #words: { node: NodeOf<'output'>; subject: string; template: string } | undefined

  /** The value that was shown last, and what followed it in the same branch. */
  #shown: { subject: string; template: string; after: string } | undefined

  constructor(values: ValueReader, reports: FaultReports) {
    this.#values = values
    this.#reports = reports
  }

  /** Forgets what came before: a branch or a loop begins or ends. */
  reset(): void {
    this.#words = undefined
    this.#shown = undefined
  }

  /** Reports a text that claims that there is nothing, whatever there is, and the unit of a number before it. */
  checkText({ text, place }: NodeOf<'text'>, { template, isConditional }: OutputPosition): void {
    const words = this.#words
    this.#words = undefined
    if (this.#shown) this.#shown.after += text
    if (words && words.template === template && MINUTES.test(text))
      this.#reports.report(
        'words-as-minutes',
        { template, place: words.node.place, subject: words.subject },
        {
          message: `“${words.subject}” is a number of words, and is shown as minutes.`,
          hint: `Print {{ ${words.subject} | reading_minutes }}.`,
        },
      )
    const said = NOTHING_SAID.exec(text)
    if (!said) return
    const line = place.line + text.slice(0, said.index).split('\n').length - 1
    const [subject = ''] = said[0].replace(/<[^<>]*>\s*/, '').split('\n')
    const where = { template, place: { line, column: place.line === line ? place.column : 1 }, subject }
    if (isConditional) this.#reports.noteRight('nothing-always', where)
    else
      this.#reports.reportOnRoutes('nothing-always', where, {
        message: `“${subject}” is shown in any case, also if there is something.`,
        hint: 'Put it into {% else %} of the loop, or into {% if … %}.',
      })
  }

  /** @param markup before the output */
  check(node: NodeOf<'output'>, { type, markup }: { type: Type; markup: string }, at: OutputPosition): void {
    const { template } = at
    const path = plainPathOf(node.expression)
    const position = markupPosition(markup)
    if (position.in === 'tag' && position.isUnquoted && (type.kind === 'text' || type.kind === 'html'))
      this.#reports.report(
        'attribute-unquoted',
        { template, place: node.place, subject: path ? pathText(path) : (position.attribute ?? '') },
        {
          message: `The value of the attribute “${position.attribute ?? ''}” has no quotes, and a text is printed into it.`,
          hint: 'Put the value in quotes.',
        },
      )
    const isShown = position.in === 'text' && !UNSHOWN.test(markup)
    const literal = literalPrinted(
      node.expression,
      position.in === 'tag' && ADDRESSES.has(position.attribute ?? ''),
      this.#values.known(at.scope),
    )
    if (literal)
      this.#reports.report(
        'literal-printed',
        { template, place: node.place, subject: `'${literalText(node.expression.operands[0]) ?? ''}'` },
        literal,
      )
    this.#checkCount(node, at)
    const isHeard =
      position.in === 'tag' && (SHOWN_ATTRIBUTES.has(position.attribute ?? '') || DESCRIPTION.test(markup))
    this.#checkPrinted(node, { type, isShown, isHeard, isLinkText: LINK.test(markup) }, at)
    this.#checkTime(
      node,
      { type, markup, isDatetime: position.in === 'tag' && position.attribute === 'datetime' },
      at,
    )
    this.#words = undefined
    const before = this.#shown
    this.#shown = undefined
    if (!path) return
    this.checkEmptied(path, type, at, node.place)
    const subject = pathText(path)
    if (isShown && type.kind === 'text') {
      if (before?.subject === subject && before.template === template && INLINE.test(before.after))
        this.#reports.report(
          'printed-twice',
          { template, place: node.place, subject },
          { message: `“${subject}” is printed twice, one after the other.`, hint: 'Remove one of them.' },
        )
      this.#shown = { subject, template, after: '' }
    }
    if (isShown && /\.wordCount$/.test(subject)) this.#words = { node, subject, template }
    if (type === ZERO)
      this.#reports.report(
        'always-empty',
        { template, place: node.place, subject },
        {
          message: `“${subject}” is always 0 here: this branch is rendered only then.`,
          hint: 'Reverse the condition, or print the number in the other branch.',
        },
      )
    const typed = isShown ? commentAsTyped(path, this.#values.typeOf(rowOf(path), at.scope)) : undefined
    if (typed) this.#reports.report('comment-as-typed', { template, place: node.place, subject }, typed)
    if (isShown) this.#checkAbsent(path, subject, at, node.place)
    if (type.kind === 'date' && (position.in === 'text' || SHOWN_ATTRIBUTES.has(position.attribute ?? '')))
      this.#reports.report(
        'date-unformatted',
        { template, place: node.place, subject },
        {
          message: `“${subject}” is printed as it is stored, e.g. 2026-03-02T09:00:00.000Z.`,
          hint: `Add a format: {{ ${subject} | date: '%-d %B %Y' }}`,
        },
      )
    if (position.in === 'tag' && ADDRESSES.has(position.attribute ?? '') && canBeEmpty(type))
      this.#values.reportEmpty(
        path,
        at,
        node.place,
        `the attribute “${position.attribute ?? ''}” then has no value`,
      )
  }

  /** Reports the number of rows on a page that is printed as if it were the number of all rows. */
  #checkCount({ expression, place }: NodeOf<'output'>, { template, scope }: Position): void {
    const printed = countPrinted(expression, (steps) => this.#values.typeOf(steps, scope))
    if (printed?.isTotal === true) this.#reports.notePrintedTotal(template, place)
    else if (printed)
      this.#reports.report('page-counted', { template, place, subject: printed.subject }, printed.fault)
  }

  /** Reports an output that prints nothing, or not what readers expect. */
  #checkPrinted(
    { expression, place }: NodeOf<'output'>,
    shown: { type: Type; isShown: boolean; isHeard: boolean; isLinkText: boolean },
    { template, scope, isInLoop }: OutputPosition,
  ): void {
    const [only] = expression.operands
    const path = only?.kind === 'path' && !expression.postfix ? only : undefined
    const subject = path && pathText(path)
    const row = path ? this.#values.typeOf(rowOf(path), scope) : UNKNOWN
    // A template can give the name another value.
    const written = literalText(only) ?? ''
    const isNow = (subject === 'now' && !scope.names.has(subject)) || written === 'now' || written === 'today'
    const printed = { expression, path: subject, row, ...shown, isNowInLoop: isInLoop && isNow }
    for (const { kind, fault } of printedFaults(printed))
      this.#reports.report(kind, { template, place, subject: subject ?? kind }, fault)
  }

  /** Reports a field of a row that may be absent: what is around the field is shown nevertheless. */
  #checkAbsent(path: Path, subject: string, at: OutputPosition, place: Place): void {
    const steps = subject.split('.')
    if (steps.length < 2 || subject.includes('…')) return
    const row = this.#values.typeOf(steps.slice(0, -1), at.scope)
    if (row.kind !== 'row') return
    // On a page without other data, the branch around it may never be rendered.
    if (canBeEmpty(row))
      this.#values.reportEmpty(path, at, place, 'what is around it is then shown without it', 'row-absent')
    else this.#reports.noteRight('row-absent', { template: at.template, place, subject })
  }

  /** Reports a value in a branch that is only rendered if the value is empty. */
  checkEmptied(path: Path | undefined, type: Type, { scope, template }: Position, place: Place): void {
    if (!path || type.kind !== 'nothing') return
    const subject = pathText(path)
    const emptied = emptiedBy(subject, scope)
    if (emptied === undefined) return
    this.#reports.report(
      'always-empty',
      { template, place, subject },
      {
        message: `“${subject}” is always empty here: this branch is rendered only if “${emptied}” is empty.`,
        hint: 'Reverse the condition, or use the value in the other branch.',
      },
    )
  }

  /** Reports a `datetime` that is written out although the text of the `<time>` is a value, or that is another value. */
  #checkTime(
    node: NodeOf<'output'>,
    { type, markup, isDatetime }: { type: Type; markup: string; isDatetime: boolean },
    { template }: Position,
  ): void {
    const path = node.expression.operands.find((one) => one.kind === 'path')
    const subject = path ? pathText(path) : undefined
    if (isDatetime) this.#datetime = subject
    const written = constantTime(node, type, markup)
    if (written !== undefined)
      this.#reports.report(
        'time-constant',
        { template, place: node.place, subject: `datetime="${written}"` },
        {
          message: `The datetime of this <time> is always ${written}, whatever its text is.`,
          hint: `Write datetime="{{ ${subject ?? 'post.publishedAt'} }}".`,
        },
      )
    const isTime = type.kind === 'date' || node.expression.filters.some((one) => TIME_FILTERS.has(one.name))
    if (!isTime || subject === undefined || subject === this.#datetime || !PRINTED_TIME.test(markup)) return
    // A name that was assigned, or a part of a path that is computed, may be the same time.
    if (![subject, this.#datetime].every((one) => one?.includes('.') === true && !one.includes('…'))) return
    this.#reports.report(
      'time-differs',
      { template, place: node.place, subject },
      {
        message: `The text of this <time> is “${subject}”, and its datetime is “${this.#datetime ?? ''}”.`,
        hint: `Print {{ ${this.#datetime ?? ''} }} in both.`,
      },
    )
  }
}

/** Returns the path of an expression without filters; undefined for others. */
export function plainPathOf(expression: Expression): Path | undefined {
  const { operands, filters, postfix } = expression
  const [only] = operands
  return only?.kind === 'path' && filters.length === 0 && !postfix ? only : undefined
}
