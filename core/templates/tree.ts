/**
 * The syntax tree of a template. liquidjs parses; `liquid/parse.ts` turns its result into this tree, and everything that
 * analyses templates works on it.
 */

/** Where a node starts. */
export interface Place {
  /** 1-based. */
  line: number
  /** 1-based. */
  column: number
}

/** What an expression is made of. */
export type Operand =
  | { kind: 'literal'; value: string | number | null; place: Place }
  /** `post.category.slug`, `posts[0]`, `row[key]`: a root and the steps into it. */
  | { kind: 'path'; root: string | Operand; steps: readonly Step[]; place: Place }
  | { kind: 'range'; from: Operand; to: Operand; place: Place }
  /** An expression in parentheses. */
  | { kind: 'expression'; expression: Expression; place: Place }
  /** Anything else that reads nothing, e.g. `empty`. */
  | { kind: 'constant'; place: Place }

/** A step into a value: a name or index that is written out, or one that is computed. */
export type Step = string | number | Operand

export interface FilterCall {
  name: string
  arguments: readonly { name: string | null; value: Operand }[]
}

/** Operands, joined by operators where there are several, and the filters that the result passes through. */
export interface Expression {
  operands: readonly Operand[]
  filters: readonly FilterCall[]
  place: Place
}

export type TemplateNode =
  | { kind: 'text'; place: Place }
  | { kind: 'output'; expression: Expression; place: Place }
  | { kind: 'assign'; name: string; expression: Expression; place: Place }
  | { kind: 'capture'; name: string; body: readonly TemplateNode[]; place: Place }
  /** `for` and `tablerow`. */
  | {
      kind: 'loop'
      variable: string
      collection: Expression
      arguments: readonly Expression[]
      body: readonly TemplateNode[]
      otherwise: readonly TemplateNode[]
      place: Place
    }
  /** `if`, `unless` and `case`: the conditions, and the bodies of which at most one is rendered. */
  | {
      kind: 'choice'
      conditions: readonly Expression[]
      bodies: readonly (readonly TemplateNode[])[]
      place: Place
    }
  | { kind: 'render'; template: string | null; given: readonly Given[]; place: Place }
  /** `template` is undefined for `{% layout none %}`. */
  | {
      kind: 'layout'
      template: string | null | undefined
      given: readonly Given[]
      body: readonly TemplateNode[]
      place: Place
    }
  | { kind: 'block'; name: string; body: readonly TemplateNode[]; place: Place }
  | {
      kind: 'fragment'
      name: string
      lifetime: number
      vary: readonly Expression[]
      body: readonly TemplateNode[]
      place: Place
    }
  /** Any other tag: what it evaluates, and what it contains. */
  | {
      kind: 'tag'
      name: string
      expressions: readonly Expression[]
      body: readonly TemplateNode[]
      place: Place
    }

/** A value passed to a partial or a layout; `isEach` if a list is passed item by item. */
export interface Given {
  name: string
  expression: Expression
  isEach: boolean
}

export type NodeOf<Kind extends TemplateNode['kind']> = Extract<TemplateNode, { kind: Kind }>

/** Returns the expressions that a node evaluates itself. */
export function expressionsOf(node: TemplateNode): readonly Expression[] {
  switch (node.kind) {
    case 'output':
    case 'assign':
      return [node.expression]
    case 'loop':
      return [node.collection, ...node.arguments]
    case 'choice':
      return node.conditions
    case 'render':
    case 'layout':
      return node.given.map((one) => one.expression)
    case 'fragment':
      return node.vary
    case 'tag':
      return node.expressions
    case 'text':
    case 'capture':
    case 'block':
      return []
  }
}

/** Returns the bodies that a node contains. */
export function bodiesOf(node: TemplateNode): readonly (readonly TemplateNode[])[] {
  switch (node.kind) {
    case 'loop':
      return [node.body, node.otherwise]
    case 'choice':
      return node.bodies
    case 'capture':
    case 'block':
    case 'layout':
    case 'fragment':
    case 'tag':
      return [node.body]
    case 'text':
    case 'output':
    case 'assign':
    case 'render':
      return []
  }
}

/** Yields all nodes, each before the nodes it contains. Partials are not followed. */
export function* nodesOf(nodes: readonly TemplateNode[]): Generator<TemplateNode> {
  for (const node of nodes) {
    yield node
    for (const body of bodiesOf(node)) yield* nodesOf(body)
  }
}

/** Yields the operands of an expression, those of its filters included; not the operands within them. */
export function* operandsOf({ operands, filters }: Expression): Generator<Operand> {
  yield* operands
  for (const filter of filters) for (const argument of filter.arguments) yield argument.value
}

/** Yields every path that an expression reads, those in computed steps included. */
export function* pathsOf(expression: Expression): Generator<Operand & { kind: 'path' }> {
  for (const operand of operandsOf(expression)) yield* pathsIn(operand)
}

function* pathsIn(operand: Operand): Generator<Operand & { kind: 'path' }> {
  switch (operand.kind) {
    case 'path':
      yield operand
      if (typeof operand.root === 'object') yield* pathsIn(operand.root)
      for (const step of operand.steps) if (typeof step === 'object') yield* pathsIn(step)
      return
    case 'range':
      yield* pathsIn(operand.from)
      yield* pathsIn(operand.to)
      return
    case 'expression':
      yield* pathsOf(operand.expression)
      return
    case 'literal':
    case 'constant':
  }
}
