/**
 * Which names a template reads from outside itself, layouts and partials included: the data to load before rendering,
 * and what a cached fragment depends on. Never too few names: a name counts as read unless it is certainly a local.
 */
import { bodiesOf, expressionsOf, pathsOf, type Expression, type TemplateNode } from './tree.ts'

export type FindTree = (name: string) => readonly TemplateNode[] | undefined

export interface NameOptions {
  /** `skip`: the bodies of fragments are left out, as if their copies were at hand. */
  fragments: 'follow' | 'skip'
}

/** Locals of loops and partials that are always set. */
const LOOP_LOCALS = ['forloop', 'tablerowloop']

/** The first steps into a value, e.g. `title` of `blog.title`; `all` if the whole value is read. */
export type FirstSteps = ReadonlySet<string> | 'all'

type Names = Map<string, FirstSteps>

/** Returns the names that nodes read from outside. */
export const namesRead = (
  nodes: readonly TemplateNode[],
  find: FindTree,
  options: NameOptions,
): ReadonlySet<string> => new Set(namesWithSteps(nodes, find, options).keys())

/** Returns the names that nodes read from outside, each with the first steps into its value. */
export const namesWithSteps = (
  nodes: readonly TemplateNode[],
  find: FindTree,
  options: NameOptions,
): ReadonlyMap<string, FirstSteps> => new NameReader(find, options).read(nodes)

class NameReader {
  readonly #find: FindTree
  readonly #options: NameOptions
  /** Partial → the names it reads from outside; each is read once. */
  readonly #partials = new Map<string, Names>()

  constructor(find: FindTree, options: NameOptions) {
    this.#find = find
    this.#options = options
  }

  read(nodes: readonly TemplateNode[]): Names {
    const names: Names = new Map()
    this.#nodes(nodes, new Set(), names)
    return names
  }

  /** @param locals names that are certainly set; extended by unconditional assignments */
  #nodes(nodes: readonly TemplateNode[], locals: Set<string>, names: Names): void {
    for (const node of nodes) this.#node(node, locals, names)
  }

  #node(node: TemplateNode, locals: Set<string>, names: Names): void {
    if (node.kind === 'render') return this.#render(node, locals, names)
    for (const one of expressionsOf(node)) note(one, locals, names)
    if (node.kind === 'fragment' && this.#options.fragments === 'skip') return
    switch (node.kind) {
      case 'assign':
        locals.add(node.name)
        return
      case 'capture':
        this.#nodes(node.body, locals, names)
        locals.add(node.name)
        return
      case 'loop':
        this.#nodes(node.body, new Set([...locals, node.variable, ...LOOP_LOCALS]), names)
        this.#nodes(node.otherwise, new Set(locals), names)
        return
      case 'layout':
        // Blocks are rendered inside the layout, in the page's own scope.
        this.#nodes(node.body, locals, names)
        if (typeof node.template === 'string')
          for (const [name, steps] of this.#partial(node.template))
            if (!locals.has(name) && !node.given.some((one) => one.name === name)) add(names, name, steps)
        return
      default:
        // What is assigned in a body may not have been: it stays local to the body.
        for (const body of bodiesOf(node)) this.#nodes(body, new Set(locals), names)
    }
  }

  #render(node: TemplateNode & { kind: 'render' }, locals: Set<string>, names: Names): void {
    const inside: Names = node.template === null ? new Map() : this.#partial(node.template)
    // Arguments are evaluated when the partial reads them.
    for (const { name, expression } of node.given) if (inside.has(name)) note(expression, locals, names)
    const isGiven = (name: string) => node.given.some((one) => one.name === name)
    for (const [name, steps] of inside)
      if (!isGiven(name) && !LOOP_LOCALS.includes(name)) add(names, name, steps)
  }

  #partial(name: string): Names {
    const known = this.#partials.get(name)
    if (known) return known
    const names: Names = new Map()
    // A partial that renders itself is refused elsewhere; here it ends.
    this.#partials.set(name, names)
    this.#nodes(this.#find(name) ?? [], new Set(), names)
    return names
  }
}

function note(expression: Expression, locals: ReadonlySet<string>, names: Names): void {
  for (const { root, steps } of pathsOf(expression)) {
    if (typeof root !== 'string' || locals.has(root)) continue
    const [first] = steps
    add(names, root, first === undefined || typeof first === 'object' ? 'all' : new Set([String(first)]))
  }
}

function add(names: Names, name: string, steps: FirstSteps): void {
  const known = names.get(name)
  names.set(
    name,
    known === undefined ? steps : known === 'all' || steps === 'all' ? 'all' : new Set([...known, ...steps]),
  )
}
