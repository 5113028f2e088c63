/**
 * Which fields of its data a page reads, and on which lines, followed from the data's names through loops, assignments,
 * layouts and partials. Never too few: where a row is used in a way that cannot be followed, all of it counts as read.
 */
import {
  bodiesOf,
  expressionsOf,
  modifiersOf,
  type Expression,
  type FilterCall,
  type Operand,
  type Path,
  type Place,
  type Step,
  type TemplateNode,
} from './tree.ts'
import type { FindTree } from './names.ts'

/** A read of a field: `category.slug` of data `posts`. Steps into lists and pages of rows are left out of the path. */
export interface FieldRead {
  data: string
  path: readonly string[]
  template: string
  line: number
}

export interface PageReads {
  reads: FieldRead[]
  /** Data of which any field may be read. */
  whole: ReadonlySet<string>
}

/** Where a value comes from: data, and the path into it. */
interface Origin {
  data: string
  path: readonly string[]
}
type Scope = Map<string, Origin[]>

/** Steps into a list or a page of rows, which lead to rows and not to their fields. */
const STRUCTURE = /^(items|first|last|-?\d+)$/
/** Filters that return the same rows, or some of them. */
const SAME_ROWS = new Set([
  'first',
  'last',
  'reverse',
  'slice',
  'compact',
  'shift',
  'pop',
  'sample',
  'default',
  'concat',
  'push',
  'unshift',
  'uniq',
])
/** Filters that read a field of each row, named by their first argument. */
const BY_FIELD = new Set([
  'where',
  'reject',
  'find',
  'find_index',
  'has',
  'sort',
  'sort_natural',
  'group_by',
  'sum',
  'map',
])
/** Filters that read certain fields of a row. */
const OWN_FIELDS: ReadonlyMap<string, readonly string[]> = new Map([
  ['picture', ['name', 'width', 'height', 'text']],
])
/** Filters that may read anything of a row. */
const ANYTHING = /^(json|jsonify|inspect|structured_data|.+_exp)$/

/** Levels of partials that are followed. */
const DEEPEST = 40
/** Steps into a row that are followed: more than any path to a related row and its field has. */
const LONGEST = 12
/** Origins that one name may have. With more, all of the data counts as read. */
const MOST_ORIGINS = 200
/** Times that templates are read, each time with other values. Beyond, all of the data counts as read. */
const MOST_READINGS = 5_000

/**
 * Returns the fields that a page reads.
 * @param names of the page's data
 */
export function readsOf(find: FindTree, page: string, names: Iterable<string>): PageReads {
  const all = [...names]
  const reader = new FieldReader(find, all)
  reader.untilStable(page, new Map(all.map((data) => [data, [{ data, path: [] }]])), 0)
  return reader.result
}

/** A read inside a body, with the name that it starts from. */
export interface BodyRead {
  path: string
  template: string
  line: number
}

/**
 * Returns what the body of a fragment reads of the values that it gets from outside, e.g. `posts.next.url`.
 * @param names of these values
 * @param except names that are not followed
 */
export function readsOfBody(
  find: FindTree,
  body: readonly TemplateNode[],
  template: string,
  names: Iterable<string>,
  except: readonly string[],
): BodyRead[] {
  const followed = [...names].filter((one) => !except.includes(one))
  const reader = new FieldReader(find, followed)
  reader.body(template, body, new Map(followed.map((data) => [data, [{ data, path: [] }]])))
  return reader.result.reads.map(({ data, path, ...at }) => ({ path: [data, ...path].join('.'), ...at }))
}

class FieldReader {
  readonly #find: FindTree
  readonly #reads = new Map<string, FieldRead>()
  readonly #whole = new Set<string>()
  readonly #names: readonly string[]
  /** Partials with the origins of their arguments: with the same arguments, they read the same. */
  readonly #rendered = new Set<string>()
  #readings = 0

  constructor(find: FindTree, names: readonly string[]) {
    this.#find = find
    this.#names = names
  }

  get result(): PageReads {
    return { reads: [...this.#reads.values()], whole: this.#whole }
  }

  /** Reads nodes until no new origin is found. */
  body(template: string, nodes: readonly TemplateNode[], scope: Scope): void {
    for (let before = -1; before !== originsIn(scope);) {
      before = originsIn(scope)
      this.#nodes(nodes, { template, scope, depth: 0 })
    }
  }

  /** Reads a template until no new origin is found: a loop carries rows from one iteration into the next. */
  untilStable(template: string, scope: Scope, depth: number): void {
    for (let before = -1; before !== originsIn(scope);) {
      before = originsIn(scope)
      this.#template(template, scope, depth)
    }
  }

  #template(template: string, scope: Scope, depth: number): void {
    if (depth > DEEPEST || ++this.#readings > MOST_READINGS) {
      this.#readWhole(this.#names)
      return
    }
    this.#nodes(this.#find(template) ?? [], { template, scope, depth })
  }

  #nodes(nodes: readonly TemplateNode[], at: Reading): void {
    for (const node of nodes) this.#node(node, at)
  }

  #node(node: TemplateNode, at: Reading): void {
    const { scope, depth } = at
    switch (node.kind) {
      case 'assign':
        this.#add(scope, node.name, this.#expression(node.expression, at))
        return
      case 'render':
        return this.#render(node, at)
      case 'loop':
        this.#add(scope, node.variable, this.#expression(node.collection, at))
        for (const one of modifiersOf(node)) this.#expression(one, at)
        break
      case 'layout':
        for (const { name, expression } of node.given)
          this.#add(scope, name, this.#expression(expression, at))
        break
      default:
        for (const one of expressionsOf(node)) this.#expression(one, at)
    }
    for (const body of bodiesOf(node)) this.#nodes(body, at)
    // Blocks are rendered inside the layout, in the page's own scope.
    if (node.kind === 'layout' && typeof node.template === 'string')
      this.#template(node.template, scope, depth + 1)
  }

  /** A partial sees its arguments and nothing else of the page. */
  #render({ template, given }: TemplateNode & { kind: 'render' }, at: Reading): void {
    if (template === null) return
    const inner: Scope = new Map()
    for (const { name, expression } of given) this.#add(inner, name, this.#expression(expression, at))
    const key = JSON.stringify([template, ...inner])
    if (this.#rendered.has(key)) return
    this.#rendered.add(key)
    this.untilStable(template, inner, at.depth + 1)
  }

  #add(scope: Scope, name: string, origins: readonly Origin[]): void {
    const known = scope.get(name) ?? []
    const fresh = origins.filter(
      (one) => !known.some((other) => other.data === one.data && samePath(other.path, one.path)),
    )
    if (known.length + fresh.length > MOST_ORIGINS) this.#readWhole(fresh.map((one) => one.data))
    else scope.set(name, [...known, ...fresh])
  }

  /** Notes what an expression reads; returns where its value comes from. */
  #expression({ operands, filters, place }: Expression, at: Reading): Origin[] {
    const found = operands.map((one) => this.#operand(one, at))
    // With several operands, the value is a boolean.
    let origins = found.length === 1 ? (found[0] ?? []) : []
    for (const filter of filters) origins = this.#filter(filter, origins, at, place)
    return origins
  }

  #filter(filter: FilterCall, origins: Origin[], at: Reading, place: Place): Origin[] {
    const given = filter.arguments.map((one) => this.#operand(one.value, at))
    if (ANYTHING.test(filter.name)) this.#readWhole(origins.map((one) => one.data))
    for (const field of OWN_FIELDS.get(filter.name) ?? [])
      for (const one of this.#into(origins, [field])) this.#note(one, at, place)
    if (SAME_ROWS.has(filter.name)) return [...origins, ...given.flat()]
    return BY_FIELD.has(filter.name) ? this.#byField(filter, origins, at) : []
  }

  #byField({ name, arguments: [first] }: FilterCall, origins: Origin[], at: Reading): Origin[] {
    if (first === undefined) return origins
    const { value } = first
    if (value.kind !== 'literal' || typeof value.value !== 'string') {
      this.#readWhole(origins.map((one) => one.data))
      return []
    }
    const led = this.#into(origins, value.value.split('.'))
    for (const one of led) this.#note(one, at, value.place)
    if (name === 'map') return led
    return name === 'sum' || name === 'has' || name === 'find_index' ? [] : origins
  }

  #operand(operand: Operand, at: Reading): Origin[] {
    switch (operand.kind) {
      case 'literal':
      case 'constant':
        return []
      case 'range':
        this.#operand(operand.from, at)
        this.#operand(operand.to, at)
        return []
      case 'expression':
        return this.#expression(operand.expression, at)
      case 'path':
        return this.#path(operand, at)
    }
  }

  #path({ root, steps, place }: Path, at: Reading): Origin[] {
    let origins = typeof root === 'string' ? (at.scope.get(root) ?? []) : this.#operand(root, at)
    for (const step of steps) origins = this.#step(origins, step, at)
    const led = origins.map(({ data, path }) => ({
      data,
      path: path.filter((one) => one !== 'size' && !STRUCTURE.test(one)),
    }))
    for (const one of led) this.#note(one, at, place)
    return led
  }

  #step(origins: readonly Origin[], step: Step, at: Reading): Origin[] {
    if (typeof step !== 'object') return this.#into(origins, [String(step)])
    // Which field it is, is only known when the page is rendered.
    this.#operand(step, at)
    this.#readWhole(origins.map((one) => one.data))
    return []
  }

  /** Extends the paths; where one gets too long, all of the row counts as read. */
  #into(origins: readonly Origin[], steps: readonly string[]): Origin[] {
    const led = origins.map(({ data, path }) => ({ data, path: [...path, ...steps] }))
    this.#readWhole(led.filter(({ path }) => path.length > LONGEST).map((one) => one.data))
    return led.filter(({ path }) => path.length <= LONGEST)
  }

  #readWhole(data: Iterable<string>): void {
    for (const one of data) this.#whole.add(one)
  }

  #note({ data, path }: Origin, { template }: Reading, { line }: Place): void {
    if (path.length === 0) return
    this.#reads.set(`${data} ${path.join('.')} ${template} ${line}`, { data, path, template, line })
  }
}

/** What a node is read with. */
interface Reading {
  template: string
  scope: Scope
  depth: number
}

const originsIn = (scope: Scope) => [...scope.values()].reduce((sum, one) => sum + one.length, 0)

const samePath = (a: readonly string[], b: readonly string[]) =>
  a.length === b.length && a.every((one, index) => one === b[index])
