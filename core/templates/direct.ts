/**
 * Makes parsed templates render without liquidjs's generators where nothing has to be awaited: fixed text, outputs,
 * conditions and assignments become plain function calls, with the same results. What is not known here is left to
 * the interpreter. All data is loaded before a rendering, so nothing ever waits.
 */
import {
  evalToken,
  IfTag,
  isTruthy,
  LiquidError,
  Output,
  RenderError,
  toValue,
  toValueSync,
  TypeGuards,
  UnlessTag,
  Value,
  type Context,
  type Emitter,
  type Expression,
  type Filter,
  type Liquid,
  type Template,
  type Token,
} from 'liquidjs'

type Evaluate = (context: Context) => unknown

/** Parts of liquidjs's classes that its types keep private. */
interface OpenContext {
  findScope(key: string): object
  readProperty(value: unknown, key: string | number): unknown
  opts: { operators: Record<string, (left: unknown, right: unknown, context: Context) => unknown> }
}
interface OpenFilter {
  handler: (this: unknown, value: unknown, ...words: unknown[]) => unknown
  args: (Token | [string, Token])[]
  token: Token
  liquid: unknown
}

const open = (context: Context) => context as unknown as OpenContext

/** A filter or operator may still answer with a generator. */
const settle = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'next' in value && typeof value.next === 'function'
    ? toValueSync(value as never)
    : value

/** `post.category.slug` → its keys, where all of them are written out. */
function fixedKeys(token: Token): (string | number)[] | undefined {
  if (!TypeGuards.isPropertyAccessToken(token) || token.variable !== undefined) return undefined
  const keys: (string | number)[] = []
  for (const prop of token.props as unknown as Token[]) {
    if (TypeGuards.isWordToken(prop) || TypeGuards.isQuotedToken(prop) || TypeGuards.isNumberToken(prop))
      keys.push(prop.content)
    else return undefined
  }
  return keys
}

export function evaluator(token: Token): Evaluate {
  const [first, ...rest] = fixedKeys(token) ?? []
  if (typeof first === 'string') {
    return (context) => {
      const { readProperty } = open(context)
      let value = readProperty.call(context, open(context).findScope(first), first)
      for (const key of rest) value = readProperty.call(context, value, key)
      return value
    }
  }
  if (TypeGuards.isQuotedToken(token) || TypeGuards.isNumberToken(token)) {
    const { content } = token
    return () => content
  }
  return (context) => toValueSync(evalToken(token as never, context) as never)
}

function expression(postfix: readonly Token[]): Evaluate {
  const [only] = postfix
  if (postfix.length === 1 && only !== undefined) return evaluator(only)
  const steps = postfix.map((token) =>
    TypeGuards.isOperatorToken(token) ? { operator: token.operator } : { evaluate: evaluator(token) },
  )
  return (context) => {
    const stack: unknown[] = []
    const { operators } = open(context).opts
    for (const step of steps) {
      if ('evaluate' in step) stack.push(step.evaluate(context))
      else if (step.operator === 'not')
        stack.push(settle(operators['not']?.(stack.pop(), context as never, context)))
      else {
        const right = stack.pop()
        const left = stack.pop()
        stack.push(settle(operators[step.operator]?.(left, right, context)))
      }
    }
    return stack[0]
  }
}

function filterStep(filter: Filter): (value: unknown, context: Context) => unknown {
  const { handler, args, token, liquid } = filter as unknown as OpenFilter
  const words = args.map((word): Evaluate => {
    if (!Array.isArray(word)) return evaluator(word)
    const [name, of] = word
    const evaluate = evaluator(of)
    return (context) => [name, evaluate(context)]
  })
  return (value, context) =>
    settle(handler.apply({ context, token, liquid }, [value, ...words.map((word) => word(context))]))
}

function valueOf(value: Value): Evaluate {
  const initial = expression((value.initial as Expression & { postfix: Token[] }).postfix)
  const steps = value.filters.map(filterStep)
  return (context) => {
    let result = initial(context)
    for (const step of steps) result = step(result, context)
    return result
  }
}

/** Replaces a method of one instance. */
const replace = (target: object, name: string, method: unknown) =>
  Object.defineProperty(target, name, { value: method, configurable: true })

function directValue(value: Value): void {
  const evaluate = valueOf(value)
  replace(value, 'value', (context: Context) => evaluate(context))
}

interface Branch {
  value: Value
  templates: Template[]
}

/** `if` and `unless`: the first branch that holds, else the rest. */
function directBranches(tag: IfTag | UnlessTag): void {
  const branches = (tag.branches as Branch[]).map(({ value, templates }, index) => ({
    evaluate: valueOf(value),
    // The first condition of `unless` is turned round; its `elsif` is not.
    wanted: !(tag instanceof UnlessTag && index === 0),
    templates,
  }))
  const rest = (tag.elseTemplates as Template[] | undefined) ?? []
  const { liquid } = tag
  replace(tag, 'render', (context: Context, emitter: Emitter) => {
    const holds = branches.find((one) => isTruthy(settle(one.evaluate(context)), context) === one.wanted)
    liquid.renderer.renderTemplates(holds?.templates ?? rest, context, emitter)
  })
}

/** As liquidjs writes a value that no filter has made a text. */
function written(value: unknown): string {
  if (typeof value === 'string') return value
  const plain: unknown = toValue(value)
  return Array.isArray(plain) ? plain.map(written).join('') : String(plain ?? '')
}

class TextEmitter {
  buffer = ''
  write(value: unknown): void {
    this.buffer += written(value)
  }
}

interface OpenLimits {
  renderLimit: { check(time: number): void }
  breakCalled: boolean
  continueCalled: boolean
}

/** liquidjs's rendering of a list of templates, without a generator; the time limit is looked at once a list. */
function renderList(templates: readonly Template[], context: Context, given?: Emitter): unknown {
  const emitter = given ?? (new TextEmitter() as unknown as Emitter)
  const { renderLimit } = context as unknown as OpenLimits
  renderLimit.check(performance.now())
  for (const template of templates) {
    try {
      const text = settle(template.render(context, emitter))
      if (text) emitter.write(text)
    } catch (error) {
      throw LiquidError.is(error) ? error : new RenderError(error as Error, template)
    }
    const { breakCalled, continueCalled } = context as unknown as OpenLimits
    if (breakCalled || continueCalled) break
  }
  return (emitter as unknown as TextEmitter).buffer
}

/** Makes an engine render lists of templates directly; for engines that only ever render synchronously. */
export function renderDirectly(engine: Liquid): void {
  replace(engine.renderer, 'renderTemplates', renderList)
}

/** Prepares templates, and what is nested in them, in place. */
export function makeDirect(templates: readonly Template[]): void {
  for (const template of templates) {
    if (TypeGuards.isHTMLToken(template.token)) {
      const text = template.token.getContent()
      replace(template, 'render', (_: Context, emitter: Emitter) => emitter.write(text))
    } else if (template instanceof Output) {
      const evaluate = valueOf(template.value)
      replace(template, 'render', (context: Context, emitter: Emitter) => emitter.write(evaluate(context)))
    } else if (template instanceof IfTag || template instanceof UnlessTag) {
      directBranches(template)
    } else {
      for (const part of Object.values(template).flat() as unknown[]) {
        if (part instanceof Value) directValue(part)
        else if (typeof part === 'object' && part !== null && 'value' in part && part.value instanceof Value)
          directValue(part.value)
      }
    }
    const { children } = template as Template
    if (children)
      makeDirect(toValueSync(children.call(template, false, true) as Generator<unknown, Template[]>))
  }
}
