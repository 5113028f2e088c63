/**
 * Renders parsed templates without liquidjs's generators: text, outputs, conditions and assignments become plain function
 * calls with the same results; everything else is left to liquidjs. All data is loaded before a rendering, so nothing
 * ever waits. This is the only file that replaces methods of liquidjs's objects.
 */
import {
  evalToken,
  ForTag,
  IfTag,
  isTruthy,
  LiquidError,
  Output,
  RenderError,
  TablerowTag,
  toValue,
  toValueSync,
  TypeGuards,
  UnlessTag,
  Value,
  type Context,
  type Emitter,
  type Filter,
  type Liquid,
  type Template,
  type Token,
} from 'liquidjs'
import { checkCall, checkRange, checkValue, spend, workOf } from './limits.ts'
import {
  asEmitter,
  bufferOf,
  childrenOf,
  openBranches,
  openContext,
  openFilter,
  openLoop,
  replaceMethod,
  TextEmitter,
  valuesIn,
} from './internals.ts'
import { servicesOf } from './services.ts'

type Evaluate = (context: Context) => unknown

/** Runs a generator to its end: filters and operators may return one. */
const settle = (value: unknown): unknown =>
  typeof value === 'object' && value !== null && 'next' in value && typeof value.next === 'function'
    ? toValueSync(value as never)
    : value

/** Returns the keys of `post.category.slug` if all of them are written out. */
export function fixedKeys(token: Token): (string | number)[] | undefined {
  if (!TypeGuards.isPropertyAccessToken(token) || token.variable !== undefined) return undefined
  const props: readonly Token[] = token.props
  const keys: (string | number)[] = []
  for (const prop of props) {
    if (TypeGuards.isWordToken(prop) || TypeGuards.isQuotedToken(prop) || TypeGuards.isNumberToken(prop))
      keys.push(prop.content)
    else return undefined
  }
  return keys
}

/** Compiles an operand to a function. */
export function evaluator(token: Token): Evaluate {
  const [first, ...rest] = fixedKeys(token) ?? []
  if (typeof first === 'string') {
    return (context) => {
      const open = openContext(context)
      let value = open.readProperty(open.findScope(first), first)
      for (const key of rest) value = open.readProperty(value, key)
      return value
    }
  }
  if (TypeGuards.isQuotedToken(token) || TypeGuards.isNumberToken(token)) {
    const { content } = token
    return () => content
  }
  if (TypeGuards.isRangeToken(token)) {
    const [from, to] = [evaluator(token.lhs), evaluator(token.rhs)]
    return (context) => {
      checkRange(toValue(from(context)), toValue(to(context)))
      return toValueSync(evalToken(token as never, context) as never)
    }
  }
  return (context) => toValueSync(evalToken(token as never, context) as never)
}

/** Compiles operands and operators in postfix order. */
function expression(postfix: readonly Token[]): Evaluate {
  const [only] = postfix
  if (postfix.length === 1 && only !== undefined) return evaluator(only)
  const steps = postfix.map((token) =>
    TypeGuards.isOperatorToken(token) ? { operator: token.operator } : { evaluate: evaluator(token) },
  )
  return (context) => {
    const stack: unknown[] = []
    const { operators } = openContext(context).opts
    for (const step of steps) {
      if ('evaluate' in step) stack.push(step.evaluate(context))
      else if (step.operator === 'not') stack.push(settle(operators['not']?.(stack.pop(), context, context)))
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
  const { name, handler, args, token, liquid } = openFilter(filter)
  const words = args.map((word): Evaluate => {
    if (!Array.isArray(word)) return evaluator(word)
    const [name, of] = word
    const evaluate = evaluator(of)
    return (context) => [name, evaluate(context)]
  })
  return (value, context) => {
    const given = words.map((word) => word(context))
    checkCall(name, value, given)
    const result = settle(handler.apply({ context, token, liquid }, [value, ...given]))
    checkValue(result)
    spend(openContext(context).renderLimit, workOf(name, value), servicesOf(context).processorTime)
    return result
  }
}

function valueOf(value: Value): Evaluate {
  const initial = expression(value.initial.postfix)
  const steps = value.filters.map(filterStep)
  return (context) => {
    let result = initial(context)
    for (const step of steps) result = step(result, context)
    return result
  }
}

/** `if` and `unless`: renders the first branch whose condition holds, otherwise the `else` branch. */
function directBranches(tag: IfTag | UnlessTag): void {
  const { branches, otherwise } = openBranches(tag)
  const conditions = branches.map(({ value, templates }, index) => ({
    evaluate: value ? valueOf(value) : () => true,
    // The first condition of `unless` is negated; its `elsif` is not.
    wanted: !(tag instanceof UnlessTag && index === 0),
    templates,
  }))
  const { liquid } = tag
  replaceMethod(tag, 'render', (context: Context, emitter: Emitter) => {
    const holds = conditions.find((one) => isTruthy(settle(one.evaluate(context)), context) === one.wanted)
    liquid.renderer.renderTemplates(holds?.templates ?? otherwise, context, emitter)
  })
}

/** Returns a value as liquidjs prints it. */
function written(value: unknown): string {
  if (typeof value === 'string') return value
  const plain: unknown = toValue(value)
  return Array.isArray(plain) ? plain.map(written).join('') : String(plain ?? '')
}

/** Renders a list of templates without a generator. Work is counted once per list. */
function renderList(templates: readonly Template[], context: Context, given?: Emitter): unknown {
  const emitter = given ?? asEmitter(new TextEmitter(written))
  const open = openContext(context)
  spend(open.renderLimit, 1 + templates.length, servicesOf(context).processorTime)
  for (const template of templates) {
    try {
      const text = settle(template.render(context, emitter))
      if (text) emitter.write(text)
    } catch (error) {
      throw LiquidError.is(error) ? error : new RenderError(error as Error, template)
    }
    if (open.breakCalled || open.continueCalled) break
  }
  return bufferOf(emitter)
}

/** Checks the range that a tag loops over before liquidjs makes a list of it. */
function limitRange(tag: ForTag | TablerowTag, collection: Token): void {
  if (!TypeGuards.isRangeToken(collection)) return
  const [from, to] = [evaluator(collection.lhs), evaluator(collection.rhs)]
  const render = tag.render.bind(tag) as (context: Context, emitter: Emitter) => unknown
  replaceMethod(tag, 'render', (context: Context, emitter: Emitter) => {
    checkRange(toValue(from(context)), toValue(to(context)))
    return render(context, emitter)
  })
}

/** Makes an engine render directly. Only for engines that never render asynchronously. */
export function renderDirectly(engine: Liquid): void {
  replaceMethod(engine.renderer, 'renderTemplates', renderList)
}

/** Prepares templates and the templates nested in them, in place. */
export function makeDirect(templates: readonly Template[]): void {
  for (const template of templates) {
    if (TypeGuards.isHTMLToken(template.token)) {
      const text = template.token.getContent()
      replaceMethod(template, 'render', (_: Context, emitter: Emitter) => emitter.write(text))
    } else if (template instanceof Output) {
      const evaluate = valueOf(template.value)
      replaceMethod(template, 'render', (context: Context, emitter: Emitter) =>
        emitter.write(evaluate(context)),
      )
    } else if (template instanceof IfTag || template instanceof UnlessTag) {
      directBranches(template)
    } else if (template instanceof ForTag || template instanceof TablerowTag) {
      limitRange(template, openLoop(template).collection)
    } else {
      for (const value of valuesIn(template)) {
        const evaluate = valueOf(value)
        replaceMethod(value, 'value', (context: Context) => evaluate(context))
      }
    }
    makeDirect(childrenOf(template))
  }
}
