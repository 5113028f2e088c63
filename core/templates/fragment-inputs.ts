/**
 * What the body of a fragment reads, found by analysing it and the partials that it renders. From it follow the key of
 * its copies and the scope in which it is rendered: the body sees its inputs and nothing else of the page.
 */
import type { NamedFields } from '../caching/provenance.ts'
import { namesWithSteps, type FindTree, type FirstSteps } from './names.ts'
import {
  expressionsOf,
  nodesOf,
  operandsOf,
  pathsOf,
  type Expression,
  type Operand,
  type TemplateNode,
} from './tree.ts'

export interface FragmentInputs {
  /** The names that it reads from outside, in the order of their parts in the key, with the first steps into each. */
  roots: ReadonlyMap<string, FirstSteps>
  /** The names by which it can reach fields of rows and other values. */
  named: NamedFields
  /** Partials that it renders. */
  templates: ReadonlySet<string>
  /** Routes of which it builds addresses; `all` if their names are computed. */
  routes: ReadonlySet<string> | 'all'
  assets: ReadonlySet<string> | 'all'
  filters: ReadonlySet<string>
  /** Whether it reads the time other than to print a date, so that no copy is right a moment later. */
  readsClock: boolean
}

/** Filters that may read any field, or evaluate a text as a template. */
const ANYTHING = /^(json|jsonify|inspect|.+_exp)$/
export function fragmentInputs(body: readonly TemplateNode[], find: FindTree): FragmentInputs {
  const reader = new BodyReader(find)
  reader.nodes(body)
  const roots = [...namesWithSteps(body, find, { fragments: 'follow' })].sort(([a], [b]) => (a < b ? -1 : 1))
  return {
    roots: new Map(roots),
    named: reader.isAll ? 'all' : reader.named,
    templates: reader.templates,
    routes: reader.anyRoute ? 'all' : reader.routes,
    assets: reader.anyAsset ? 'all' : reader.assets,
    filters: reader.filters,
    readsClock: reader.readsClock,
  }
}

class BodyReader {
  readonly named = new Set<string>()
  readonly templates = new Set<string>()
  readonly routes = new Set<string>()
  readonly assets = new Set<string>()
  readonly filters = new Set<string>()
  isAll = false
  anyRoute = false
  anyAsset = false
  readsClock = false
  readonly #find: FindTree

  constructor(find: FindTree) {
    this.#find = find
  }

  nodes(nodes: readonly TemplateNode[]): void {
    for (const node of nodesOf(nodes)) {
      for (const one of expressionsOf(node)) this.#expression(one)
      if (node.kind === 'render' && node.template !== null && !this.templates.has(node.template)) {
        this.templates.add(node.template)
        this.nodes(this.#find(node.template) ?? [])
      }
    }
  }

  #expression(expression: Expression): void {
    const { operands, filters } = expression
    const [first] = operands
    for (const operand of operandsOf(expression)) this.#operand(operand)
    for (const { name, each } of filters) {
      this.filters.add(name)
      if (each) this.#expression(each.expression)
      if (ANYTHING.test(name)) this.isAll = true
    }
    const [filter] = filters
    const literal = first?.kind === 'literal' && typeof first.value === 'string' ? first.value : undefined
    // A filter that is not the first one gets a computed name.
    for (const [index, { name }] of filters.entries()) {
      if (name === 'url') {
        if (literal !== undefined && index === 0) this.routes.add(literal)
        else this.anyRoute = true
      }
      if (name === 'asset') {
        if (literal !== undefined && index === 0) this.assets.add(literal)
        else this.anyAsset = true
      }
    }
    const isDate =
      operands.length === 1 && first?.kind === 'path' && first.root === 'now' && filter?.name === 'date'
    if (isDate) return
    for (const { root } of pathsOf(expression)) if (root === 'now') this.readsClock = true
  }

  #operand(operand: Operand): void {
    switch (operand.kind) {
      case 'literal':
        // A field can be named by a text, as in “where: 'category.slug'”.
        if (typeof operand.value === 'string')
          for (const one of operand.value.split('.')) this.named.add(one.trim())
        return
      case 'path':
        if (typeof operand.root === 'object') this.#operand(operand.root)
        for (const step of operand.steps)
          if (typeof step === 'object') {
            this.isAll = true
            this.#operand(step)
          } else this.named.add(String(step))
        return
      case 'range':
        this.#operand(operand.from)
        this.#operand(operand.to)
        return
      case 'expression':
        this.#expression(operand.expression)
        return
      case 'constant':
    }
  }
}
