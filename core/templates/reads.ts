/**
 * Which fields of its data a page reads, and on which lines: followed from the data's names through loops, assignments
 * and partials. Never too few: where a template looks into a row in a way that cannot be followed, all of it is read.
 */
import {
  AssignTag,
  ForTag,
  LayoutTag,
  RenderTag,
  TablerowTag,
  toValueSync,
  TypeGuards,
  Value,
  type Template,
  type Token,
} from 'liquidjs'

/** A read of a field: `category.slug` of data `posts`; places within lists and pages are left out of the path. */
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

/** Where a value comes from: data, and the way into it. */
interface Origin {
  data: string
  path: readonly string[]
}
type Scope = Map<string, Origin[]>

/** Steps into a list or a page of rows: they lead to rows, not to fields of them. */
const STRUCTURE = /^(items|first|last|-?\d+)$/
/** What gives the same rows, or some of them. */
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
/** What looks at a field of each row, which its first argument names. */
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
/** What may look at anything in a row. */
const ANYTHING = /^(json|jsonify|inspect|.+_exp)$/

/** Partials within partials that are followed. */
const DEEPEST = 40
/** Steps into a row that are followed: longer than any way from one row to another and to a field of it. */
const LONGEST = 12
/** Ways to a value that one name may have; of what would be more, all of the row counts as read. */
const MOST_ORIGINS = 200
/** Templates that are read, each time one is read with other values; beyond, all of the data counts as read. */
const MOST_READINGS = 5_000

/**
 * @param find a template's syntax tree by its name
 * @param names of the page's data
 */
export function readsOf(
  find: (name: string) => readonly Template[] | undefined,
  page: string,
  names: Iterable<string>,
): PageReads {
  const all = [...names]
  const reading = new Reading(find, all)
  const scope: Scope = new Map(all.map((data) => [data, [{ data, path: [] }]]))
  reading.whole(page, scope, 0)
  return reading.result
}

class Reading {
  readonly #find: (name: string) => readonly Template[] | undefined
  readonly #reads = new Map<string, FieldRead>()
  readonly #whole = new Set<string>()
  readonly #names: readonly string[]
  /** Partials with what they were given: given the same, they read the same. */
  readonly #rendered = new Set<string>()
  #readings = 0

  constructor(find: (name: string) => readonly Template[] | undefined, names: readonly string[]) {
    this.#find = find
    this.#names = names
  }

  get result(): PageReads {
    return { reads: [...this.#reads.values()], whole: this.#whole }
  }

  /** Reads a template until nothing new is known: a loop carries rows from one turn into the next. */
  whole(name: string, scope: Scope, depth: number): void {
    for (let before = -1; before !== originsIn(scope);) {
      before = originsIn(scope)
      this.template(name, scope, depth)
    }
  }

  template(name: string, scope: Scope, depth: number): void {
    if (depth > DEEPEST || ++this.#readings > MOST_READINGS) {
      for (const data of this.#names) this.#whole.add(data)
      return
    }
    for (const one of this.#find(name) ?? []) this.#visit(one, name, scope, depth)
  }

  #visit(template: Template, name: string, scope: Scope, depth: number): void {
    if (template instanceof AssignTag) {
      const { key, value } = template as unknown as { key: string; value: Value }
      this.#add(scope, key, this.#value(value, name, scope))
      return
    }
    if (template instanceof ForTag || template instanceof TablerowTag) {
      const { variable, collection } = template as unknown as { variable: string; collection: unknown }
      this.#add(scope, variable, this.#any(collection, name, scope))
    }
    if (template instanceof RenderTag) return this.#render(template, name, scope, depth)
    for (const argument of template.arguments?.() ?? []) this.#any(argument, name, scope)
    if (template.children)
      for (const child of toValueSync(template.children(false, true) as Generator<unknown, Template[]>))
        this.#visit(child, name, scope, depth)
    // Blocks are rendered where the layout has them, in the page's own scope.
    const layout = template instanceof LayoutTag ? template.partialScope?.()?.name : undefined
    if (layout !== undefined) this.template(layout, scope, depth + 1)
  }

  #render(template: Template, name: string, scope: Scope, depth: number): void {
    const { file, hash, ...bindings } = template as unknown as {
      file: unknown
      hash: { hash: Record<string, unknown> }
      with?: { value: unknown; alias?: string }
      forBinding?: { value: unknown; alias?: string }
    }
    if (typeof file !== 'string') return
    // A partial sees what it is given, and nothing else of the page.
    const inner: Scope = new Map()
    for (const [key, value] of Object.entries(hash.hash)) this.#add(inner, key, this.#any(value, name, scope))
    for (const binding of [bindings.with, bindings.forBinding])
      if (binding) this.#add(inner, binding.alias ?? file, this.#any(binding.value, name, scope))
    const key = JSON.stringify([file, ...inner])
    if (this.#rendered.has(key)) return
    this.#rendered.add(key)
    this.whole(file, inner, depth + 1)
  }

  #add(scope: Scope, name: string, origins: readonly Origin[]): void {
    const known = scope.get(name) ?? []
    const fresh = origins.filter(
      (one) => !known.some((other) => other.data === one.data && samePath(other.path, one.path)),
    )
    if (known.length + fresh.length > MOST_ORIGINS) for (const { data } of fresh) this.#whole.add(data)
    else scope.set(name, [...known, ...fresh])
  }

  /** @returns where the value comes from */
  #any(argument: unknown, name: string, scope: Scope): Origin[] {
    if (argument instanceof Value) return this.#value(argument, name, scope)
    return this.#token(argument as Token, name, scope)
  }

  #value({ initial, filters }: Value, name: string, scope: Scope): Origin[] {
    return this.#filtered(
      initial.postfix,
      filters as unknown as readonly { name: string; args: readonly unknown[] }[],
      name,
      scope,
    )
  }

  #filtered(
    postfix: readonly Token[],
    filters: readonly { name: string; args: readonly unknown[] }[],
    name: string,
    scope: Scope,
  ): Origin[] {
    const operands = postfix.map((one) => this.#token(one, name, scope))
    // Of several operands, “and”, “or” and comparisons make true or false.
    let origins = operands.length === 1 ? (operands[0] ?? []) : []
    for (const filter of filters) {
      const given = filter.args.map((one) =>
        this.#token((Array.isArray(one) ? one[1] : one) as Token, name, scope),
      )
      const [first] = filter.args
      if (ANYTHING.test(filter.name)) for (const { data } of origins) this.#whole.add(data)
      if (SAME_ROWS.has(filter.name)) origins = [...origins, ...given.flat()]
      else if (BY_FIELD.has(filter.name)) origins = this.#byField(filter.name, first, origins, name)
      else origins = []
    }
    return origins
  }

  #byField(filter: string, argument: unknown, origins: Origin[], name: string): Origin[] {
    const token = argument as Token | undefined
    if (token === undefined) return origins
    if (!TypeGuards.isQuotedToken(token)) {
      for (const { data } of origins) this.#whole.add(data)
      return []
    }
    const path = token.content.split('.')
    const led = this.#into(origins, path)
    for (const one of led) this.#note(one, name, token)
    if (filter === 'map') return led
    return filter === 'sum' || filter === 'has' || filter === 'find_index' ? [] : origins
  }

  #token(token: Token | undefined, name: string, scope: Scope): Origin[] {
    if (token === undefined) return []
    if (TypeGuards.isRangeToken(token)) {
      this.#token(token.lhs, name, scope)
      this.#token(token.rhs, name, scope)
      return []
    }
    if ('initial' in token && 'filters' in token) {
      const { initial, filters } = token as unknown as {
        initial: { postfix: Token[] }
        filters: { name: string; args: unknown[] }[]
      }
      return this.#filtered(initial.postfix, filters, name, scope)
    }
    if (!TypeGuards.isPropertyAccessToken(token)) return []
    const props: readonly Token[] = token.props
    const root = token.variable ?? props[0]
    const steps = token.variable ? props : props.slice(1)
    const key = root && 'content' in root ? String(root.content) : undefined
    let origins = key === undefined ? [] : (scope.get(key) ?? [])
    for (const step of steps) {
      const text = 'content' in step ? String(step.content) : undefined
      const isLiteral = text !== undefined && !TypeGuards.isPropertyAccessToken(step)
      if (isLiteral) origins = this.#into(origins, [text])
      else {
        // Which field it is, is decided when the page is made.
        this.#token(step, name, scope)
        for (const { data } of origins) this.#whole.add(data)
        origins = []
      }
    }
    const led = origins.map(({ data, path }) => ({
      data,
      path: path.filter((one) => one !== 'size' && !STRUCTURE.test(one)),
    }))
    for (const one of led) this.#note(one, name, token)
    return led
  }

  /** Steps further in; where the way gets too long, all of the row may be read. */
  #into(origins: readonly Origin[], steps: readonly string[]): Origin[] {
    const led = origins.map(({ data, path }) => ({ data, path: [...path, ...steps] }))
    for (const { data, path } of led) if (path.length > LONGEST) this.#whole.add(data)
    return led.filter(({ path }) => path.length <= LONGEST)
  }

  #note({ data, path }: Origin, template: string, token: Token): void {
    if (path.length === 0) return
    const [line = 1] = token.getPosition()
    this.#reads.set(`${data} ${path.join('.')} ${template} ${line}`, { data, path, template, line })
  }
}

const originsIn = (scope: Scope) => [...scope.values()].reduce((sum, one) => sum + one.length, 0)

const samePath = (a: readonly string[], b: readonly string[]) =>
  a.length === b.length && a.every((one, index) => one === b[index])
