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
  | { kind: 'literal'; value: string | number | boolean; place: Place }
  /** Values that are compared in their own ways. */
  | { kind: 'constant'; name: ConstantName; place: Place }
  /** `post.category.slug`, `posts[0]`, `row[key]`: a root and the steps into it. */
  | { kind: 'path'; root: string | Operand; steps: readonly Step[]; place: Place }
  | { kind: 'range'; from: Operand; to: Operand; place: Place }
  /** An expression in parentheses. */
  | { kind: 'expression'; expression: Expression; place: Place }

/** A path. */
export type Path = Operand & { kind: 'path' }

export type ConstantName = 'nil' | 'empty' | 'blank'

/** A step into a value: a name or index that is written out, or one that is computed. */
export type Step = string | number | Operand

export interface FilterCall {
  name: string
  arguments: readonly { name: string | null; value: Operand }[]
  /** Of `where_exp` and its relatives: the name of an item, and the expression that is evaluated for each. */
  each?: { item: string; expression: Expression }
}

/** Operands, joined by operators where there are several, and the filters that the result passes through. */
export interface Expression {
  operands: readonly Operand[]
  /** Operands (by their position) and operators in postfix order, which has their precedence; undefined for one operand. */
  postfix?: readonly (number | string)[]
  filters: readonly FilterCall[]
  place: Place
}

export type TemplateNode =
  | { kind: 'text'; text: string; place: Place }
  | { kind: 'output'; expression: Expression; place: Place }
  | { kind: 'assign'; name: string; expression: Expression; place: Place }
  | { kind: 'capture'; name: string; body: readonly TemplateNode[]; place: Place }
  | {
      kind: 'loop'
      tag: 'for' | 'tablerow'
      variable: string
      collection: Expression
      /** The collection as written. */
      text: string
      /** `limit`, `offset`, `cols` and `reversed`; null for a name alone, which is true. */
      modifiers: ReadonlyMap<string, Expression | null>
      body: readonly TemplateNode[]
      otherwise: readonly TemplateNode[]
      place: Place
    }
  /** `if` and `unless`: renders the first branch whose condition is as wanted, or the other body. */
  | { kind: 'choice'; branches: readonly Branch[]; otherwise: readonly TemplateNode[]; place: Place }
  | {
      kind: 'case'
      subject: Expression
      branches: readonly { values: readonly Expression[]; body: readonly TemplateNode[] }[]
      otherwise: readonly TemplateNode[]
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
      /** Identifies the text of the body. */
      bodyHash: string
      vary: readonly Expression[]
      body: readonly TemplateNode[]
      place: Place
    }
  /** Prints the next of its values each time. `key` identifies those that take turns together. */
  | { kind: 'cycle'; group: Expression | null; key: string; values: readonly Expression[]; place: Place }
  /** `increment` and `decrement`. */
  | { kind: 'count'; name: string; by: 1 | -1; place: Place }
  | { kind: 'jump'; tag: 'break' | 'continue'; place: Place }
  /** `liquid`: tags without delimiters. */
  | { kind: 'group'; body: readonly TemplateNode[]; place: Place }

/** A condition, and what is rendered if it is as wanted: the first one of `unless` must not hold. */
export interface Branch {
  condition: Expression
  wanted: boolean
  body: readonly TemplateNode[]
}

/** A value passed to a partial or a layout. */
export interface Given {
  name: string
  expression: Expression
  /** Whether it is a list that is passed item by item. */
  isEach: boolean
  /** The value as written. */
  text: string
}

export type NodeOf<Kind extends TemplateNode['kind']> = Extract<TemplateNode, { kind: Kind }>

/** Returns the expressions that a node evaluates itself. */
export function expressionsOf(node: TemplateNode): readonly Expression[] {
  switch (node.kind) {
    case 'output':
    case 'assign':
      return [node.expression]
    case 'loop':
      return [node.collection, ...modifiersOf(node)]
    case 'choice':
      return node.branches.map((one) => one.condition)
    case 'case':
      return [node.subject, ...node.branches.flatMap((one) => one.values)]
    case 'render':
    case 'layout':
      return node.given.map((one) => one.expression)
    case 'fragment':
      return node.vary
    case 'cycle':
      return node.group ? [...node.values, node.group] : node.values
    case 'text':
    case 'capture':
    case 'block':
    case 'count':
    case 'jump':
    case 'group':
      return []
  }
}

/** Returns the expressions of a loop's modifiers. */
export const modifiersOf = ({ modifiers }: NodeOf<'loop'>): Expression[] =>
  [...modifiers.values()].filter((one) => one !== null)

/** Returns the bodies that a node contains. */
export function bodiesOf(node: TemplateNode): readonly (readonly TemplateNode[])[] {
  switch (node.kind) {
    case 'loop':
      return [node.body, node.otherwise]
    case 'choice':
    case 'case':
      return [...node.branches.map((one) => one.body), node.otherwise]
    case 'capture':
    case 'block':
    case 'layout':
    case 'fragment':
    case 'group':
      return [node.body]
    case 'text':
    case 'output':
    case 'assign':
    case 'render':
    case 'cycle':
    case 'count':
    case 'jump':
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
export function* pathsOf(expression: Expression): Generator<Path> {
  for (const operand of operandsOf(expression)) yield* pathsIn(operand)
  for (const { each } of expression.filters)
    for (const path of each ? pathsOf(each.expression) : []) if (path.root !== each?.item) yield path
}

function* pathsIn(operand: Operand): Generator<Path> {
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

/** Returns a path as written; “…” stands for computed steps. */
export function pathText({ root, steps }: Path): string {
  const first = typeof root === 'string' ? root : '…'
  return [first, ...steps.map((one) => (typeof one === 'object' ? '…' : String(one)))].join('.')
}

/** Returns the steps to the row that a path is a field of: `post` and `category` of `post.category.name`. */
export const rowOf = (path: Path): string[] => pathText(path).split('.').slice(0, -1)
