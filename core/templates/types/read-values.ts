/** Reads the types of expressions in templates, and reports the faults in them. */
import {
  pathText,
  rowOf,
  type Expression,
  type FilterCall,
  type Operand,
  type Path,
  type Place,
} from '../tree.ts'
import { comparisonFaults, countFaults, routeNameFaults, slugFaults } from './expression-faults.ts'
import type { FaultReports } from './fault-reports.ts'
import { filterFaults, literalText } from './filter-faults.ts'
import type { ExpressionFault, FaultPlace } from './faults.ts'
import { filterType } from './filter-types.ts'
import type { Position, Scope } from './scope.ts'
import type { TypedPage } from './typed-page.ts'
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

/** Receives the types that are determined while a page is read. */
export interface TypeObserver {
  /** A node is about to be read. */
  node(template: string, place: Place, scope: Scope): void
  /** A path was read. */
  path(template: string, place: Place, path: string, type: Type): void
}

/** `condition`: an empty value is no fault, because the template asks for it. */
type Use = 'condition' | 'value'

export class ValueReader {
  readonly #page: TypedPage
  readonly #reports: FaultReports
  readonly #observer: TypeObserver | undefined

  constructor(page: TypedPage, reports: FaultReports, observer?: TypeObserver) {
    this.#page = page
    this.#reports = reports
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
    this.#reports.reportAll(at.template, [
      ...comparisonFaults(expression, types),
      ...countFaults(expression, types),
      ...routeNameFaults(expression, this.#page.slugs),
    ])
    let type = postfix ? BOOLEAN : (types[0] ?? UNKNOWN)
    const [only] = operands
    const subject = only?.kind === 'path' && !postfix ? pathText(only) : undefined
    for (const [index, filter] of filters.entries()) {
      const place = index === 0 && only ? only.place : expression.place
      this.#reports.reportAll(
        at.template,
        filterFaults(filter, type, { place, subject: subject ?? filter.name }),
      )
      type = this.#filter(filter, { input: type, given: operands }, at)
    }
    return type
  }

  /** Returns the type of an argument that may be missing. */
  #argument(operand: Operand, at: Position): Type {
    if (operand.kind !== 'path') return UNKNOWN
    const type = this.typeOf([pathText(operand)], at.scope)
    this.#observer?.path(at.template, operand.place, pathText(operand), type)
    return type
  }

  /** Returns the routes by name, and whether there is a value of a name. */
  known({ names }: Scope): { routes: ReadonlyMap<string, unknown>; isKnown: (name: string) => boolean } {
    const { globals, slugs } = this.#page
    return { routes: slugs, isKnown: (name) => names.has(name) || globals.has(name) }
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

  /** Reports a path that may be empty. @param consequence what happens then */
  reportEmpty(
    path: Path,
    at: Position,
    place: Place,
    consequence: string,
    kind: 'may-be-empty' | 'row-absent' = 'may-be-empty',
  ): void {
    const subject = pathText(path)
    const where = { template: at.template, place, subject }
    if (this.#reports.isUnfetched({ ...where, place: path.place })) return
    this.#reports.report(kind, where, {
      message: `“${subject}” may be empty, and ${consequence}.`,
      hint: `Put it inside {% if ${this.#firstEmpty(subject.split('.'), at.scope)} %}.`,
    })
  }

  /** Returns the start of a path that may be empty itself. */
  #firstEmpty(steps: readonly string[], scope: Scope): string {
    const length = steps.findIndex((_, index) => canBeEmpty(this.typeOf(steps.slice(0, index + 1), scope)))
    return steps.slice(0, length === -1 ? steps.length : length + 1).join('.')
  }

  #filter(
    filter: FilterCall,
    { input, given: operands }: { input: Type; given: readonly Operand[] },
    at: Position,
  ): Type {
    const given = filter.arguments.map(({ name, value }) => {
      const type = this.#operand(value, at, 'condition')
      if (filter.name === 'url' && name !== null && value.kind === 'path')
        this.#reports.reportAll(
          at.template,
          this.#slugFaults(literalText(operands[0]) ?? '', name, value, at),
        )
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

  #slugFaults(route: string, parameter: string, path: Path, { scope }: Position): ExpressionFault[] {
    if (this.#page.slugs.get(route)?.has(parameter) !== true) return []
    return slugFaults({ route, parameter }, path, this.typeOf(rowOf(path), scope))
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

  #path(path: Path, at: Position, use: Use): Type {
    const type = this.#steps(path, at, use)
    this.#observer?.path(at.template, path.place, pathText(path), type)
    return type
  }

  #steps({ root, steps, place }: Path, at: Position, use: Use): Type {
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
      this.#reports.noteRight('name-unknown', { template, place, subject: name })
      return known
    }
    // `offset: continue` in a loop.
    if (name === 'continue') return UNKNOWN
    this.#reports.report(
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
      if (field || absent) this.#reports.noteRight('field-unknown', where)
      if (field) return field
      if (absent) {
        this.#reports.report('field-not-fetched', where, {
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
      this.#reports.report('list-as-row', where, {
        message: `“${base || 'The value'}” is a ${typeInWords(notEmpty(type))}, which has no “${name}”.`,
        hint: `Use it in a loop: {% for one in ${base} %} … {{ one.${name} }}`,
      })
    } else
      this.#reports.report('field-unknown', where, {
        message: `${withArticle(kindInWords(type), true)} has no “${name}”.`,
        names: type.kind === 'row' ? [...type.fields.keys(), ...type.absent.keys()] : [],
      })
    return UNKNOWN
  }
}

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
