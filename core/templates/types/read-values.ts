/** Reads the types of expressions in templates, and reports the faults in them. */
import { closestName } from '../../shapes/suggest-name.ts'
import type { Expression, FilterCall, NodeOf, Operand, Place } from '../tree.ts'
import { failsFor, formatFault, literalText, misreadBy, type FilterFault } from './filter-faults.ts'
import type { FaultCollector, FaultKind, TemplateFault } from './faults.ts'
import { filterType } from './filter-types.ts'
import { printedFaults } from './printed.ts'
import type { Scope } from './scope.ts'
import {
  BOOLEAN,
  canBeEmpty,
  kindInWords,
  NOTHING,
  notEmpty,
  NUMBER,
  orEmpty,
  TEXT,
  typeInWords,
  UNKNOWN,
  withArticle,
  type Type,
} from './type.ts'

/** A page with the types of its data. */
export interface TypedPage {
  /** Its template. */
  page: string
  /** The name of its route; null for the 404 page and error pages. */
  route: string | null
  data: ReadonlyMap<string, Type>
  /** The names that all templates see. */
  globals: ReadonlyMap<string, Type>
  /** The parameters that are slugs, by route. It has all routes. */
  slugs: ReadonlyMap<string, ReadonlySet<string>>
}

/** The position of an expression. */
export interface Position {
  template: string
  scope: Scope
}

/** Receives the types that are determined while a page is read. */
export interface TypeObserver {
  /** A node is about to be read. */
  node(template: string, place: Place, scope: Scope): void
  /** A path was read. */
  path(template: string, place: Place, path: string, type: Type): void
}

/** The part of a fault that says where it is. */
export type FaultPlace = Pick<TemplateFault, 'template' | 'place' | 'subject'>

/** `condition`: an empty value is no fault, because the template asks for it. */
type Use = 'condition' | 'value'

/** The names that `request.route` has on pages without a route. */
const OTHER_ROUTES = new Set(['not-found', 'error'])

export class ValueReader {
  readonly #page: TypedPage
  readonly #faults: FaultCollector
  readonly #observer: TypeObserver | undefined

  constructor(page: TypedPage, faults: FaultCollector, observer?: TypeObserver) {
    this.#page = page
    this.#faults = faults
    this.#observer = observer
  }

  /** Returns the type of an expression. */
  expression(expression: Expression, at: Position, use: Use = 'value'): Type {
    const { operands, filters, postfix } = expression
    const types = operands.map((one) =>
      isOptionalArgument(expression, at)
        ? this.#argument(one, at)
        : this.#operand(one, at, postfix ? 'condition' : use),
    )
    this.#checkRouteNames(expression, at)
    this.#checkComparisons(expression, types, at)
    let type = postfix ? BOOLEAN : (types[0] ?? UNKNOWN)
    const [only] = operands
    const subject = only?.kind === 'path' && !postfix ? pathText(only) : undefined
    for (const [index, filter] of filters.entries()) {
      const where = { template: at.template, place: expression.place, subject: subject ?? filter.name }
      this.#checkFilter(filter, type, index === 0 && only ? { ...where, place: only.place } : where)
      type = this.#filter(filter, { input: type, given: operands }, at)
    }
    return type
  }

  /** Reports a comparison of values whose types are never equal. */
  #checkComparisons({ operands, postfix }: Expression, types: readonly Type[], { template }: Position): void {
    for (const { operator, left, right } of equations(postfix)) {
      const [path] = [operands[left], operands[right]].filter((one) => one?.kind === 'path')
      const [one, other] = [types[left], types[right]]
      if (path?.kind !== 'path' || !one || !other || !areNeverEqual(one, other)) continue
      const subject = pathText(path)
      this.report(
        'compare-never',
        { template, place: path.place, subject },
        {
          message: `${withArticle(kindInWords(one), true)} never equals ${withArticle(kindInWords(other))}, so the condition ${operator === '==' ? 'never' : 'always'} holds.`,
          hint: [one, other].some(({ kind }) => kind === 'row')
            ? 'Compare fields of the rows, such as their ids.'
            : 'Compare values of the same kind.',
        },
      )
    }
  }

  /** Reports a comparison of `request.route` with a name that no route has. */
  #checkRouteNames({ operands, postfix }: Expression, { template }: Position): void {
    for (const { operator, left, right } of equations(postfix)) {
      const two = [operands[left], operands[right]]
      const path = two.find((one) => one?.kind === 'path')
      const name = literalText(two.find((one) => one?.kind === 'literal'))
      if (path?.kind !== 'path' || pathText(path) !== 'request.route' || name === undefined) continue
      if (this.#page.slugs.has(name) || OTHER_ROUTES.has(name)) continue
      this.report(
        'route-unknown',
        { template, place: path.place, subject: name },
        {
          message: `There is no route “${name}”, so the condition ${operator === '==' ? 'never' : 'always'} holds.`,
          names: [...this.#page.slugs.keys()],
        },
      )
    }
  }

  /** Returns the type of an argument that may be missing. */
  #argument(operand: Operand, at: Position): Type {
    if (operand.kind !== 'path') return UNKNOWN
    const type = this.typeOf([pathText(operand)], at.scope)
    this.#observer?.path(at.template, operand.place, pathText(operand), type)
    return type
  }

  /** Returns the type of a path without reporting faults. */
  typeOf([first = '', ...steps]: readonly string[], { names, narrowed }: Scope): Type {
    let text = first
    let type = narrowed.get(first) ?? names.get(first) ?? this.#page.globals.get(first) ?? NOTHING
    for (const step of steps) {
      text += `.${step}`
      const field = type.kind === 'row' ? (type.fields.get(step) ?? UNKNOWN) : UNKNOWN
      type = narrowed.get(text) ?? (canBeEmpty(type) ? orEmpty(field) : field)
    }
    return type
  }

  /** @param names among which the misspelt one may be */
  report(
    kind: FaultKind,
    where: FaultPlace,
    {
      message,
      hint = '',
      names = [],
      fetch = null,
    }: { message: string; hint?: string; names?: readonly string[]; fetch?: TemplateFault['fetch'] },
  ): void {
    const meant = closestName(where.subject.split('.').at(-1) ?? '', names) ?? null
    const { page, route } = this.#page
    this.#faults.add({
      ...{ kind, ...where, message, meant, page, route, fetch },
      hint: hint || (meant === null ? '' : `Did you mean “${meant}”?`),
    })
  }

  /** Reports what is a fault only on pages with an address: the page for unknown addresses may say it. */
  reportOnRoutes(kind: FaultKind, where: FaultPlace, fault: { message: string; hint: string }): void {
    if (this.#page.route === null) this.noteRight(kind, where)
    else this.report(kind, where, fault)
  }

  /** Records that this page renders a place without the fault. */
  noteRight(kind: FaultKind, where: FaultPlace): void {
    this.#faults.isRight(kind, where)
  }

  /** Reports a condition that only asks whether there is a list, which there always is. */
  checkAlwaysTrue(condition: Expression, type: Type, { template }: Position): void {
    const [only] = condition.operands
    if (only?.kind !== 'path' || condition.postfix || condition.filters.length > 0) return
    const subject = pathText(only)
    const where = { template, place: only.place, subject }
    const isPage = type.kind === 'row' && type.name.startsWith('page of ')
    if (canBeEmpty(type) || (type.kind !== 'list' && !isPage))
      return this.noteRight('list-always-true', where)
    const list = isPage ? `${subject}.items` : subject
    this.report('list-always-true', where, {
      message: `“${subject}” is a ${isPage ? 'page of a list' : 'list'}, which counts as true even without any rows.`,
      hint: `Ask for its size: ${list}.size > 0.`,
    })
  }

  /** Reports a path that may be empty. @param consequence what happens then */
  reportEmpty(
    path: Operand & { kind: 'path' },
    at: Position,
    place: Place,
    consequence: string,
    kind: 'may-be-empty' | 'row-absent' = 'may-be-empty',
  ): void {
    const subject = pathText(path)
    const where = { template: at.template, place, subject }
    if (this.#faults.isUnfetched({ ...where, place: path.place })) return
    this.report(kind, where, {
      message: `“${subject}” may be empty, and ${consequence}.`,
      hint: `Put it inside {% if ${this.#firstEmpty(subject.split('.'), at.scope)} %}.`,
    })
  }

  /** Returns the start of a path that may be empty itself. */
  #firstEmpty(steps: readonly string[], scope: Scope): string {
    const length = steps.findIndex((_, index) => canBeEmpty(this.typeOf(steps.slice(0, index + 1), scope)))
    return steps.slice(0, length === -1 ? steps.length : length + 1).join('.')
  }

  /** Reports the number of rows on a page that is printed as if it were the number of all rows. */
  checkCount({ expression: { operands, filters, postfix }, place }: NodeOf<'output'>, at: Position): void {
    const [only] = operands
    if (only?.kind !== 'path' || postfix) return
    const steps = pathText(only).split('.')
    const isSize = filters.length === 0 && steps.at(-1) === 'size'
    if (isSize) steps.pop()
    const isCounted = isSize || (filters.length === 1 && filters[0]?.name === 'size')
    const last = steps.pop()
    if (isCounted ? last !== 'items' : last !== 'total') return
    const page = this.typeOf(steps, at.scope)
    if (page.kind !== 'row' || !page.fields.has('total') || !page.fields.has('items')) return
    if (!isCounted) return this.#faults.printsTotal(at.template, place)
    const subject = pathText(only)
    const total = `${steps.join('.')}.total`
    this.report(
      'page-counted',
      { template: at.template, place, subject },
      {
        message: `“${subject}” is the number of rows on this page, and ${total} is the number of all rows.`,
        hint: `Print {{ ${total} }}.`,
      },
    )
  }

  /** Reports what prints nothing, or not what readers expect. */
  checkPrinted(
    { expression, place }: NodeOf<'output'>,
    { type, isInLoop, ...shown }: { type: Type; isShown: boolean; isLinkText: boolean; isInLoop: boolean },
    at: Position,
  ): void {
    const [only] = expression.operands
    const path = only?.kind === 'path' && !expression.postfix ? pathText(only) : undefined
    const row = path === undefined ? UNKNOWN : this.typeOf(path.split('.').slice(0, -1), at.scope)
    // A template can give the name another value.
    const written = literalText(only) ?? ''
    const isNow = (path === 'now' && !at.scope.names.has(path)) || written === 'now' || written === 'today'
    for (const { kind, fault } of printedFaults({
      ...{ expression, path, type, row, ...shown },
      isNowInLoop: isInLoop && isNow,
    }))
      this.report(kind, { template: at.template, place, subject: path ?? kind }, fault)
  }

  /** Reports the text of a comment as it was typed, which loses its paragraphs and links where it is shown. */
  checkCommentText(path: Operand & { kind: 'path' }, at: Position, place: Place): void {
    const subject = pathText(path)
    const steps = subject.split('.')
    if (steps.pop() !== 'text') return
    const row = this.typeOf(steps, at.scope)
    if (row.kind !== 'row' || row.name !== 'comment' || !row.fields.has('html')) return
    this.report(
      'comment-as-typed',
      { template: at.template, place, subject },
      {
        message: `“${subject}” is the comment as it was typed: its paragraphs and links are lost.`,
        hint: `Print {{ ${steps.join('.')}.html }}, or shorten it: {{ ${subject} | excerpt: 80 }}.`,
      },
    )
  }

  #checkFilter(filter: FilterCall, input: Type, where: FaultPlace): void {
    const note = (kind: FaultKind, fault: FilterFault | undefined) => fault && this.report(kind, where, fault)
    note('filter-fails', failsFor(filter.name, input))
    note('filter-misreads', misreadBy(filter.name, input, where.subject))
    if (filter.name !== 'date') return
    note('date-format-wrong', formatFault(filter))
    note('date-format-wrong', this.#noDate(input, where))
  }

  /** Returns the fault of a text of a row that is formatted as a date. */
  #noDate(input: Type, { subject }: FaultPlace): FilterFault | undefined {
    // Parameters and names of months may be dates.
    if (
      !['text', 'html'].includes(input.kind) ||
      !/\.(title|name|slug|excerpt|html|text|about)$/.test(subject)
    )
      return undefined
    return {
      message: `“${subject}” is a ${kindInWords(input)}, not a date.`,
      hint: 'Format a date such as post.publishedAt.',
    }
  }

  #filter(
    filter: FilterCall,
    { input, given: operands }: { input: Type; given: readonly Operand[] },
    at: Position,
  ): Type {
    const given = filter.arguments.map(({ name, value }) => {
      const type = this.#operand(value, at, 'condition')
      if (filter.name === 'url' && name !== null && value.kind === 'path')
        this.#checkSlug(literalText(operands[0]) ?? '', name, value, at)
      if (filter.name === 'url' && name !== null && value.kind === 'path' && canBeEmpty(type))
        this.reportEmpty(value, at, value.place, 'the address cannot be built without it')
      return type
    })
    if (filter.each) {
      const scope = at.scope.copy()
      scope.set(filter.each.item, input.kind === 'list' ? input.of : UNKNOWN)
      this.expression(filter.each.expression, { ...at, scope }, 'condition')
    }
    return filter.name === 'map' ? mapped(filter, input) : filterType(filter.name, input, given)
  }

  /** Reports a name or title where an address has the slug of the same row. */
  #checkSlug(route: string, parameter: string, path: Operand & { kind: 'path' }, at: Position): void {
    const last = path.steps.at(-1)
    if (last !== 'name' && last !== 'title') return
    if (this.#page.slugs.get(route)?.has(parameter) !== true) return
    const subject = pathText(path)
    const row = subject.split('.').slice(0, -1)
    const type = this.typeOf(row, at.scope)
    if (type.kind !== 'row' || !type.fields.has('slug')) return
    this.report(
      'slug-expected',
      { template: at.template, place: path.place, subject },
      {
        message: `“${parameter}” of route “${route}” is a slug, and “${subject}” is a ${last}.`,
        hint: `Use ${row.join('.')}.slug.`,
      },
    )
  }

  #operand(operand: Operand, at: Position, use: Use): Type {
    switch (operand.kind) {
      case 'literal':
        return typeof operand.value === 'string' ? TEXT : typeof operand.value === 'number' ? NUMBER : BOOLEAN
      case 'constant':
        return operand.name === 'nil' ? NOTHING : UNKNOWN
      case 'range':
        this.#operand(operand.from, at, use)
        this.#operand(operand.to, at, use)
        return { kind: 'list', of: NUMBER }
      case 'expression':
        return this.expression(operand.expression, at, use)
      case 'path':
        return this.#path(operand, at, use)
    }
  }

  #path(path: Operand & { kind: 'path' }, at: Position, use: Use): Type {
    const type = this.#steps(path, at, use)
    this.#observer?.path(at.template, path.place, pathText(path), type)
    return type
  }

  #steps({ root, steps, place }: Operand & { kind: 'path' }, at: Position, use: Use): Type {
    let type = typeof root === 'string' ? this.#name(root, at, place) : this.#operand(root, at, use)
    let base = typeof root === 'string' ? root : ''
    for (const step of steps) {
      if (typeof step === 'object') {
        this.#operand(step, at, use)
        type = type.kind === 'list' ? orEmpty(type.of) : UNKNOWN
        base = ''
        continue
      }
      const subject = base === '' ? String(step) : `${base}.${step}`
      const field = this.#field(type, step, { template: at.template, place, subject }, { base, use })
      type = at.scope.narrowed.get(subject) ?? (canBeEmpty(type) ? orEmpty(field) : field)
      if (base !== '') base = subject
    }
    return type
  }

  #name(name: string, { template, scope }: Position, place: Place): Type {
    const { globals } = this.#page
    const known = scope.narrowed.get(name) ?? scope.names.get(name) ?? globals.get(name)
    if (known) {
      this.#faults.isRight('name-unknown', { template, place, subject: name })
      return known
    }
    // `offset: continue` in a loop.
    if (name === 'continue') return UNKNOWN
    this.report(
      'name-unknown',
      { template, place, subject: name },
      {
        message: `There is no value “${name}” here.`,
        names: [...scope.names.keys(), ...globals.keys()],
      },
    )
    return NOTHING
  }

  #field(
    type: Type,
    step: string | number,
    where: FaultPlace,
    { base, use }: { base: string; use: Use },
  ): Type {
    const name = String(step)
    if (type.kind === 'unknown' || type.kind === 'nothing') return type
    if (type.kind === 'row') {
      const field = type.fields.get(name)
      const absent = type.absent.get(name)
      if (field || absent) this.#faults.isRight('field-unknown', where)
      if (field) return field
      if (absent) {
        this.report('field-not-fetched', where, {
          message: `“${where.subject}” is always empty${use === 'value' ? '' : ', so what depends on it never shows'}.`,
          hint: absent.hint,
          fetch: absent.fetch,
        })
        return NOTHING
      }
    }
    if (name === 'size') return NUMBER
    if (type.kind === 'list') {
      if (typeof step === 'number' || name === 'first' || name === 'last') return orEmpty(type.of)
      this.report('list-as-row', where, {
        message: `“${base || 'The value'}” is a ${typeInWords(notEmpty(type))}, which has no “${name}”.`,
        hint: `Use it in a loop: {% for one in ${base} %} … {{ one.${name} }}`,
      })
    } else
      this.report('field-unknown', where, {
        message: `${withArticle(kindInWords(type), true)} has no “${name}”.`,
        names: type.kind === 'row' ? [...type.fields.keys(), ...type.absent.keys()] : [],
      })
    return UNKNOWN
  }
}

/** Yields the comparisons for equality in an expression, with the indexes of their operands. */
function* equations(
  postfix: Expression['postfix'] = [],
): Generator<{ operator: '==' | '!='; left: number; right: number }> {
  for (const [index, operator] of postfix.entries()) {
    const [left, right] = [postfix[index - 2], postfix[index - 1]]
    if ((operator === '==' || operator === '!=') && typeof left === 'number' && typeof right === 'number')
      yield { operator, left, right }
  }
}

const PLAIN = new Set<Type['kind']>(['text', 'number', 'boolean', 'date', 'html'])

/** Whether values of two types are never equal, unless both are empty. */
const areNeverEqual = (one: Type, other: Type): boolean =>
  ((one.kind === 'row' || one.kind === 'list') && PLAIN.has(other.kind)) ||
  ((other.kind === 'row' || other.kind === 'list') && PLAIN.has(one.kind)) ||
  (one.kind === 'number' && other.kind === 'text') ||
  (one.kind === 'text' && other.kind === 'number')

/** Whether an expression is an argument of a partial with a default: `{{ label | default: 'Next' }}`. */
function isOptionalArgument(
  { operands: [only], postfix, filters: [first] }: Expression,
  at: Position,
): boolean {
  if (postfix || only?.kind !== 'path' || only.steps.length > 0) return false
  return first?.name === 'default' && at.template.startsWith('partials/')
}

/** Returns the type of `map: "author.name"`. */
function mapped({ arguments: [first] }: FilterCall, input: Type): Type {
  if (input.kind !== 'list' || first?.value.kind !== 'literal') return UNKNOWN
  let type = input.of
  for (const step of String(first.value.value).split('.'))
    type = type.kind === 'row' ? (type.fields.get(step) ?? UNKNOWN) : UNKNOWN
  return { kind: 'list', of: type }
}

/** Returns a path as written; “…” stands for computed steps. */
export function pathText({ root, steps }: Operand & { kind: 'path' }): string {
  const first = typeof root === 'string' ? root : '…'
  return [first, ...steps.map((one) => (typeof one === 'object' ? '…' : String(one)))].join('.')
}
