/** Carries types from the data of pages through their templates, and finds what cannot be right. */
import { closestName } from '../../shapes/suggest-name.ts'
import type { FindTree } from '../names.ts'
import { namesRead } from '../names.ts'
import {
  type Expression,
  type FilterCall,
  type NodeOf,
  type Operand,
  type Place,
  type TemplateNode,
} from '../tree.ts'
import { assumed, type Assumption } from './conditions.ts'
import { FaultCollector, type FaultKind, type TemplateFault } from './faults.ts'
import { filterType } from './filter-types.ts'
import {
  BOOLEAN,
  canBeEmpty,
  either,
  HTML,
  NOTHING,
  notEmpty,
  NUMBER,
  orEmpty,
  row,
  TEXT,
  typeInWords,
  UNKNOWN,
  type Type,
} from './type.ts'

/** A page with the types of its data. */
export interface TypedPage {
  /** Its template. */
  page: string
  /** The name of its route; null for the 404 page and error pages. */
  route: string | null
  data: ReadonlyMap<string, Type>
  /** What all templates see. */
  globals: ReadonlyMap<string, Type>
}

/** Returns the faults of all templates that pages render. */
export function faultsOf(find: FindTree, pages: Iterable<TypedPage>): TemplateFault[] {
  const faults = new FaultCollector()
  for (const page of pages) new Reader(find, page, faults).read()
  return faults.faults
}

const LOOP = row('loop', {
  ...{ index: NUMBER, index0: NUMBER, rindex: NUMBER, rindex0: NUMBER, length: NUMBER, name: TEXT },
  ...{ first: BOOLEAN, last: BOOLEAN, row: NUMBER, col: NUMBER, col0: NUMBER, cols: NUMBER },
  ...{ col_first: BOOLEAN, col_last: BOOLEAN },
})

/** The values of names, and what conditions around a place say of paths. */
class Scope {
  readonly names: Map<string, Type>
  readonly known: Map<string, Type>

  constructor(names: ReadonlyMap<string, Type>, known: ReadonlyMap<string, Type> = new Map()) {
    this.names = new Map(names)
    this.known = new Map(known)
  }

  copy(): Scope {
    return new Scope(this.names, this.known)
  }

  set(name: string, type: Type): void {
    this.names.set(name, type)
    for (const path of this.known.keys())
      if (path === name || path.startsWith(`${name}.`)) this.known.delete(path)
  }

  /** Takes over what bodies have assigned of which at most one was rendered. */
  join(bodies: readonly Scope[]): void {
    const names = new Set(bodies.flatMap((one) => [...one.names.keys()]))
    for (const name of names) {
      const types = bodies.map((one) => one.names.get(name) ?? NOTHING)
      const joined = types.reduce((all, one) => either(all, one))
      if (joined !== this.names.get(name)) this.set(name, joined)
    }
  }
}

/** Where a node is. */
interface Where {
  template: string
  scope: Scope
  depth: number
}

/** How a value is used. */
type Use = 'condition' | 'value'

const DEEPEST = 40
/** Partials and layouts that are read for one page. */
const MOST_READINGS = 2_000

interface Block {
  nodes: readonly TemplateNode[]
  template: string
}

class Reader {
  readonly #find: FindTree
  readonly #page: TypedPage
  readonly #faults: FaultCollector
  /** What the page and inner layouts have for the blocks of their layouts. */
  readonly #blocks = new Map<string, Block>()
  /** Blocks that a layout has. */
  readonly #placed = new Set<string>()
  readonly #defined: { node: NodeOf<'block'>; template: string }[] = []
  #isStoring = false
  #readings = 0
  /** The markup before a place. */
  #markup = ''

  constructor(find: FindTree, page: TypedPage, faults: FaultCollector) {
    this.#find = find
    this.#page = page
    this.#faults = faults
  }

  read(): void {
    const { page, data } = this.#page
    this.#template(page, new Scope(data), 0)
    for (const { node, template } of this.#defined)
      if (!this.#placed.has(node.name))
        this.#report('block-unknown', { template, place: node.place, subject: node.name }, [
          `No layout of ${page} has a block “${node.name}”, so it is never printed.`,
          node.name,
          [...this.#placed],
        ])
  }

  #template(template: string, scope: Scope, depth: number): void {
    if (depth > DEEPEST || ++this.#readings > MOST_READINGS) return
    this.#nodes(this.#find(template) ?? [], { template, scope, depth })
  }

  #nodes(nodes: readonly TemplateNode[], at: Where): void {
    for (const node of nodes) this.#node(node, at)
  }

  #node(node: TemplateNode, at: Where): void {
    const { scope } = at
    switch (node.kind) {
      case 'text':
        this.#print(node.text)
        return
      case 'output':
        this.#output(node, at)
        return
      case 'assign':
        scope.set(node.name, this.#expression(node.expression, at))
        return
      case 'capture': {
        const before = this.#markup
        this.#nodes(node.body, at)
        this.#markup = before
        scope.set(node.name, HTML)
        return
      }
      case 'choice':
        this.#choice(node, at)
        return
      case 'case': {
        this.#expression(node.subject, at)
        const bodies = node.branches.map(({ values, body }) => {
          for (const one of values) this.#expression(one, at)
          return this.#body(body, at)
        })
        scope.join([...bodies, this.#body(node.otherwise, at)])
        return
      }
      case 'loop':
        this.#loop(node, at)
        return
      case 'cycle':
        for (const one of node.values) this.#expression(one, at)
        this.#print('x')
        return
      case 'count':
        scope.set(node.name, NUMBER)
        this.#print('0')
        return
      case 'render':
        this.#render(node, at)
        return
      case 'layout':
        this.#layout(node, at)
        return
      case 'block':
        this.#block(node, at)
        return
      case 'fragment':
        for (const one of node.vary) this.#expression(one, at)
        this.#nodes(node.body, { ...at, scope: scope.copy() })
        return
      case 'group':
        this.#nodes(node.body, at)
        return
      case 'jump':
    }
  }

  /** Reads a body that may not be rendered. @returns what holds after it */
  #body(nodes: readonly TemplateNode[], at: Where, assumption?: Assumption): Scope {
    const scope = at.scope.copy()
    const before = this.#markup
    for (const [path, type] of assumption ?? []) scope.known.set(path, type)
    this.#nodes(nodes, { ...at, scope })
    this.#markup = before
    return scope
  }

  #choice(node: NodeOf<'choice'>, at: Where): void {
    const bodies: Scope[] = []
    const around = at.scope.copy()
    for (const { condition, wanted, body } of node.branches) {
      const type = this.#expression(condition, { ...at, scope: around }, 'condition')
      const typeOf = (path: readonly string[]) => this.#typeOf(path, around)
      // What is always empty never holds.
      const isDead = wanted && type.kind === 'nothing'
      if (!isDead) bodies.push(this.#body(body, { ...at, scope: around }, assumed(condition, wanted, typeOf)))
      for (const [path, known] of assumed(condition, !wanted, typeOf)) around.known.set(path, known)
    }
    bodies.push(this.#body(node.otherwise, { ...at, scope: around }))
    at.scope.join(bodies)
    this.#print('')
  }

  #loop(node: NodeOf<'loop'>, at: Where): void {
    const { scope } = at
    const collection = this.#expression(node.collection, at, 'condition')
    for (const one of node.modifiers.values()) if (one) this.#expression(one, at)
    const item = this.#itemOf(collection, node, at)
    if (collection.kind !== 'nothing') {
      const inner = scope.copy()
      const [variable, counters] = [scope.names.get(node.variable), scope.names.get('forloop')]
      // Twice: a loop carries values from one iteration into the next.
      for (let time = 0; time < 2; time++) {
        inner.set(node.variable, item)
        inner.set(node.tag === 'for' ? 'forloop' : 'tablerowloop', LOOP)
        this.#nodes(node.body, { ...at, scope: inner })
      }
      restore(inner, node.variable, variable)
      restore(inner, 'forloop', counters)
      scope.join([scope.copy(), inner])
    }
    scope.join([scope.copy(), this.#body(node.otherwise, at)])
  }

  #itemOf(collection: Type, { collection: { place }, text }: NodeOf<'loop'>, at: Where): Type {
    switch (collection.kind) {
      case 'list':
        return collection.of
      case 'row': {
        const { fields, name } = collection
        const items = fields.get('items')
        this.#report('row-as-list', { template: at.template, place, subject: text }, [
          `“${text}” is ${article(name)}, not a list.`,
          items ? `Loop over ${text}.items.` : 'Loop over a list.',
          [],
        ])
        return UNKNOWN
      }
      case 'text':
        return TEXT
      default:
        return UNKNOWN
    }
  }

  #render(node: NodeOf<'render'>, at: Where): void {
    const { template } = node
    if (template === null) return
    const given = new Map<string, Type>()
    for (const { name, expression, isEach } of node.given) {
      const type = this.#expression(expression, at, 'condition')
      given.set(name, isEach ? (type.kind === 'list' ? type.of : UNKNOWN) : type)
      if (isEach) given.set('forloop', LOOP)
    }
    const nodes = this.#find(template)
    if (!nodes) return
    const read = namesRead(nodes, this.#find, { fragments: 'follow' })
    for (const { name, expression } of node.given)
      if (!read.has(name))
        this.#report('argument-unread', { template: at.template, place: expression.place, subject: name }, [
          `${template} does not read “${name}”.`,
          'Remove the argument, or read it in the partial.',
          [...read],
        ])
    this.#template(template, new Scope(given), at.depth + 1)
  }

  #layout(node: NodeOf<'layout'>, at: Where): void {
    const { template } = node
    if (typeof template !== 'string') {
      this.#nodes(node.body, at)
      return
    }
    this.#isStoring = true
    const before = this.#markup
    this.#nodes(node.body, at)
    this.#markup = before
    this.#isStoring = false
    for (const { name, expression } of node.given) at.scope.set(name, this.#expression(expression, at))
    this.#template(template, at.scope, at.depth + 1)
  }

  #block(node: NodeOf<'block'>, at: Where): void {
    const { name, body } = node
    const known = this.#blocks.get(name)
    if (this.#isStoring) {
      this.#defined.push({ node, template: at.template })
      if (!known) this.#blocks.set(name, { nodes: body, template: at.template })
      return
    }
    this.#placed.add(name)
    const inner = at.scope.copy()
    inner.set('block', row('block', { super: HTML }))
    const { nodes, template } = known ?? { nodes: body, template: at.template }
    this.#nodes(nodes, { ...at, template, scope: inner })
    restore(inner, 'block', at.scope.names.get('block'))
    at.scope.join([inner])
  }

  #print(text: string): void {
    this.#markup = (this.#markup + text).slice(-MARKUP)
  }

  #output(node: NodeOf<'output'>, at: Where): void {
    const type = this.#expression(node.expression, at)
    const attribute = ATTRIBUTE.exec(this.#markup)?.[1]?.toLowerCase()
    const { operands, filters, postfix } = node.expression
    const [only] = operands
    if (only?.kind === 'path' && filters.length === 0 && !postfix) {
      const subject = textOf(only)
      const about = { template: at.template, place: node.place, subject }
      if (type.kind === 'date' && attribute === undefined && !IN_TAG.test(this.#markup))
        this.#report('date-unformatted', about, [
          `“${subject}” is printed as it is stored, e.g. 2026-03-02T09:00:00.000Z.`,
          `Add a format: {{ ${subject} | date: '%-d %B %Y' }}`,
          [],
        ])
      if ((attribute === 'href' || attribute === 'src') && canBeEmpty(type))
        this.#reportEmpty(about, `the attribute “${attribute}” then has no value`)
    }
    this.#print('x')
  }

  #reportEmpty(about: About, consequence: string): void {
    this.#report('may-be-empty', about, [
      `“${about.subject}” may be empty, and ${consequence}.`,
      `Put it inside {% if ${about.subject.replace(/\.[^.]*$/, '')} %}.`,
      [],
    ])
  }

  /** Returns the type of an expression, and notes what is wrong in it. */
  #expression(expression: Expression, at: Where, use: Use = 'value'): Type {
    const { operands, filters, postfix } = expression
    const types = operands.map((one) => this.#operand(one, at, postfix ? 'condition' : use))
    let type = postfix ? BOOLEAN : (types[0] ?? UNKNOWN)
    for (const filter of filters) type = this.#filter(filter, type, at)
    return type
  }

  #filter(filter: FilterCall, input: Type, at: Where): Type {
    const given = filter.arguments.map(({ name, value }) => {
      const type = this.#operand(value, at, 'condition')
      if (filter.name === 'url' && name !== null && value.kind === 'path' && canBeEmpty(type))
        this.#reportEmpty(
          { template: at.template, place: value.place, subject: textOf(value) },
          'no address can be built without it',
        )
      return type
    })
    if (filter.each) {
      const inner = at.scope.copy()
      inner.set(filter.each.item, input.kind === 'list' ? input.of : UNKNOWN)
      this.#expression(filter.each.expression, { ...at, scope: inner }, 'condition')
    }
    if (filter.name === 'map') return this.#mapped(filter, input)
    return filterType(filter.name, input, given)
  }

  #mapped({ arguments: [first] }: FilterCall, input: Type): Type {
    if (input.kind !== 'list' || first?.value.kind !== 'literal') return UNKNOWN
    let type = input.of
    for (const step of String(first.value.value).split('.'))
      type = type.kind === 'row' ? (type.fields.get(step) ?? UNKNOWN) : UNKNOWN
    return { kind: 'list', of: type }
  }

  #operand(operand: Operand, at: Where, use: Use): Type {
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
        return this.#expression(operand.expression, at, use)
      case 'path':
        return this.#path(operand, at, use)
    }
  }

  #path(path: Operand & { kind: 'path' }, at: Where, use: Use): Type {
    const { root, steps, place } = path
    let type = typeof root === 'string' ? this.#name(root, at, place) : this.#operand(root, at, use)
    let text = typeof root === 'string' ? root : ''
    for (const step of steps) {
      if (typeof step === 'object') {
        this.#operand(step, at, use)
        type = type.kind === 'list' ? orEmpty(type.of) : UNKNOWN
        text = ''
        continue
      }
      const before = text
      text = text === '' ? '' : `${text}.${step}`
      const known = at.scope.known.get(text)
      const found = this.#field(type, step, { template: at.template, place, subject: text || String(step) }, [
        before,
        use,
      ])
      type = known ?? (canBeEmpty(type) ? orEmpty(found) : found)
    }
    return type
  }

  #name(name: string, at: Where, place: Place): Type {
    const about = { template: at.template, place, subject: name }
    const known = at.scope.known.get(name) ?? at.scope.names.get(name) ?? this.#page.globals.get(name)
    if (known) {
      this.#faults.isRight('name-unknown', at.template, place, name)
      return known
    }
    if (name === 'continue') return UNKNOWN
    const names = [...at.scope.names.keys(), ...this.#page.globals.keys()]
    this.#report('name-unknown', about, [`There is no value “${name}” here.`, '', names])
    return NOTHING
  }

  #field(type: Type, step: string | number, about: About, [base, use]: readonly [string, Use]): Type {
    const name = String(step)
    switch (type.kind) {
      case 'unknown':
      case 'nothing':
        return type
      case 'list':
        if (name === 'size') return NUMBER
        if (typeof step === 'number' || name === 'first' || name === 'last') return orEmpty(type.of)
        this.#report('list-as-row', about, [
          `“${base || 'The value'}” is a ${typeInWords(notEmpty(type))}, which has no “${name}”.`,
          `Use it in a loop: {% for one in ${base} %} … {{ one.${name} }}`,
          [],
        ])
        return UNKNOWN
      case 'row': {
        const field = type.fields.get(name)
        if (field) {
          this.#faults.isRight('field-unknown', about.template, about.place, about.subject)
          return field
        }
        const why = type.absent.get(name)
        if (why !== undefined) {
          this.#faults.isRight('field-unknown', about.template, about.place, about.subject)
          if (use === 'value')
            this.#report('field-not-fetched', about, [`“${about.subject}” is always empty.`, why, []])
          return NOTHING
        }
        if (name === 'size') return NUMBER
        this.#report('field-unknown', about, [
          `A ${type.name} has no “${name}”.`,
          '',
          [...type.fields.keys(), ...type.absent.keys()],
        ])
        return UNKNOWN
      }
      default:
        if (name === 'size') return NUMBER
        this.#report('field-unknown', about, [`A ${type.kind} has no “${name}”.`, '', []])
        return UNKNOWN
    }
  }

  /** Returns the type of a path without noting anything. */
  #typeOf([first = '', ...steps]: readonly string[], scope: Scope): Type {
    let text = first
    let type = scope.known.get(first) ?? scope.names.get(first) ?? this.#page.globals.get(first) ?? NOTHING
    for (const step of steps) {
      text += `.${step}`
      const field = type.kind === 'row' ? (type.fields.get(step) ?? UNKNOWN) : UNKNOWN
      type = scope.known.get(text) ?? (canBeEmpty(type) ? orEmpty(field) : field)
    }
    return type
  }

  #report(
    kind: FaultKind,
    about: About,
    [message, hint, names]: readonly [string, string, readonly string[]],
  ): void {
    const meant = closestName(about.subject.split('.').at(-1) ?? '', names) ?? null
    this.#faults.add({
      kind,
      ...about,
      message,
      hint: hint || (meant === null ? '' : `Did you mean “${meant}”?`),
      meant,
      page: this.#page.page,
      route: this.#page.route,
    })
  }
}

type About = Pick<TemplateFault, 'template' | 'place' | 'subject'>

/** Characters of markup that are looked back at. */
const MARKUP = 2_000
/** The end of markup inside the value of an attribute. */
const ATTRIBUTE = /<[a-z][^<>]*\s([\w:-]+)\s*=\s*(?:"[^"<>]*|'[^'<>]*|[^\s"'<>]*)$/i
/** The end of markup inside a tag, a style or a script. */
const IN_TAG = /<[a-z!][^<>]*$/i

function restore(scope: Scope, name: string, type: Type | undefined): void {
  if (type) scope.set(name, type)
  else scope.names.delete(name)
}

const article = (name: string): string => `${/^[aeiou]/.test(name) ? 'an' : 'a'} ${name}`

function textOf({ root, steps }: Operand & { kind: 'path' }): string {
  const first = typeof root === 'string' ? root : '…'
  return [first, ...steps.map((one) => (typeof one === 'object' ? '…' : String(one)))].join('.')
}
