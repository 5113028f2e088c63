/** Compiles expressions to functions. */
import { toValue } from 'liquidjs'
import { WordedError } from '../failure.ts'
import { TEMPLATE_PROBLEMS } from '../problems.ts'
import type { Expression, FilterCall, Operand, Path, Step } from '../tree.ts'
import { filterNamed, type FilterFunction, type Filters } from './filters.ts'
import { checkCall, checkRange, checkValue, workOf } from './limits.ts'
import type { Names } from './names.ts'
import type { Frame, Read, Rendering } from './rendering.ts'
import { constant, isTrue, itemsOf, OPERATORS, property, settled } from './values.ts'

/** What compiling an expression needs. */
export interface Compiling {
  names: Names
  filters: Filters
}

/** Compiles an expression. */
export function compiled(expression: Expression, at: Compiling): Read {
  let read = withoutFilters(expression, at)
  for (const call of expression.filters) read = filtered(read, call, at)
  return read
}

function withoutFilters({ operands, postfix }: Expression, at: Compiling): Read {
  const reads = operands.map((one) => operand(one, at))
  const [only] = reads
  if (!postfix) return only ?? (() => undefined)
  const stack: Read[] = []
  for (const term of postfix) {
    if (typeof term === 'number') stack.push(reads[term] ?? NOTHING)
    else if (term === 'not') stack.push(negated(stack.pop() ?? NOTHING))
    else {
      const right = stack.pop() ?? NOTHING
      stack.push(operation(term, stack.pop() ?? NOTHING, right))
    }
  }
  return stack[0] ?? NOTHING
}

const NOTHING: Read = () => undefined

const negated =
  (read: Read): Read =>
  (rendering, frame) =>
    !isTrue(read(rendering, frame))

function operation(operator: string, left: Read, right: Read): Read {
  if (operator === 'and')
    return (rendering, frame) => isTrue(left(rendering, frame)) && isTrue(right(rendering, frame))
  if (operator === 'or')
    return (rendering, frame) => isTrue(left(rendering, frame)) || isTrue(right(rendering, frame))
  const apply = OPERATORS[operator]
  if (!apply) throw new Error(`There is no operator “${operator}”.`)
  return (rendering, frame) => apply(left(rendering, frame), right(rendering, frame))
}

/** Compiles an operand. */
function operand(one: Operand, at: Compiling): Read {
  switch (one.kind) {
    case 'literal': {
      const { value } = one
      return () => value
    }
    case 'constant': {
      const value = constant(one.name)
      return () => value
    }
    case 'range':
      return range(operand(one.from, at), operand(one.to, at))
    case 'expression':
      return compiled(one.expression, at)
    case 'path':
      return path(one, at)
  }
}

const range =
  (from: Read, to: Read): Read =>
  (rendering, frame) => {
    const [low, high] = [toValue(from(rendering, frame)), toValue(to(rendering, frame))]
    checkRange(low, high)
    const numbers: number[] = []
    for (let number = Number(low); number < Number(high) + 1; number++) numbers.push(number)
    return numbers
  }

function path({ root, steps }: Path, at: Compiling): Read {
  const [first] = steps
  // Most paths are a name and a field, so these are read by one function.
  const isFieldOfName = typeof root === 'string' && first !== undefined && typeof first !== 'object'
  let read = isFieldOfName
    ? fieldOfName(root, first, at.names)
    : typeof root === 'string'
      ? named(root, at.names)
      : operand(root, at)
  for (const step of isFieldOfName ? steps.slice(1) : steps) read = stepped(read, step, at)
  return read
}

function fieldOfName(name: string, field: string | number, names: Names): Read {
  const slot = names.slot(name)
  return (rendering, frame) => property(frame.get(slot, name, rendering), field)
}

function named(name: string, names: Names): Read {
  const slot = names.slot(name)
  return (rendering, frame) => frame.get(slot, name, rendering)
}

function stepped(read: Read, step: Step, at: Compiling): Read {
  if (typeof step !== 'object') return (rendering, frame) => property(read(rendering, frame), step)
  const key = operand(step, at)
  return (rendering, frame) => {
    // The key first, as the steps of a path are evaluated before its root.
    const name: unknown = toValue(key(rendering, frame))
    return property(read(rendering, frame), name)
  }
}

/** Filters whose arguments are checked before they are applied. */
const CHECKED = new Set(['replace', 'remove', 'join', 'split', 'markdown', 'date'])

function filtered(read: Read, call: FilterCall, at: Compiling): Read {
  const { name } = call
  if (name.endsWith('_exp')) return byExpression(read, call, at)
  const filter = filterNamed(at.filters, name)
  const given = call.arguments.map(({ name: key, value }): Read => {
    const argument = operand(value, at)
    return key === null ? argument : (rendering, frame) => [key, argument(rendering, frame)]
  })
  const apply = applied(filter, given)
  const isChecked = CHECKED.has(name)
  return (rendering, frame) => {
    const value = read(rendering, frame)
    checkValue(value)
    const result = settled(apply(value, rendering, frame, isChecked ? name : undefined))
    checkValue(result)
    rendering.spend(workOf(name, value))
    return result
  }
}

/** Applies a filter. `checked` is its name if its arguments must be checked. */
type Apply = (value: unknown, rendering: Rendering, frame: Frame, checked: string | undefined) => unknown

function applied(filter: FilterFunction, given: readonly Read[]): Apply {
  const [first] = given
  if (!first)
    return (value, rendering, _, checked) => {
      if (checked !== undefined) checkCall(checked, value, [])
      return filter.call(rendering, value)
    }
  if (given.length === 1)
    return (value, rendering, frame, checked) => {
      const word = first(rendering, frame)
      checkValue(word)
      if (checked !== undefined) checkCall(checked, value, [word])
      return filter.call(rendering, value, word)
    }
  return (value, rendering, frame, checked) => {
    const words = given.map((one) => one(rendering, frame))
    for (const word of words) checkValue(word)
    if (checked !== undefined) checkCall(checked, value, words)
    return filter.call(rendering, value, ...words)
  }
}

/** `where_exp: "post", "post.wordCount > 500"` and its relatives: an expression that is evaluated for each item. */
function byExpression(read: Read, { name, each }: FilterCall, at: Compiling): Read {
  if (!each)
    return () => {
      throw new WordedError(TEMPLATE_PROBLEMS['template-expression-computed'](name))
    }
  const slot = at.names.slot(each.item)
  const of = compiled(each.expression, at)
  return (rendering, frame) => {
    const value = read(rendering, frame)
    checkValue(value)
    const items = name === 'group_by_exp' ? itemsOf(value) : listOf(value)
    rendering.spend(workOf(name, items))
    const before = frame.bind(slot, undefined)
    const values = items.map((one) => {
      frame.bind(slot, one)
      return of(rendering, frame)
    })
    frame.release(slot, before)
    return gathered(name, items, values)
  }
}

function listOf(value: unknown): readonly unknown[] {
  const plain: unknown = toValue(value)
  return plain === null || plain === undefined ? [] : Array.isArray(plain) ? (plain as unknown[]) : [plain]
}

/** @param values those of the expression, for each item */
function gathered(name: string, items: readonly unknown[], values: readonly unknown[]): unknown {
  switch (name) {
    case 'where_exp':
      return items.filter((_, index) => values[index] === true)
    case 'reject_exp':
      return items.filter((_, index) => values[index] === false)
    case 'has_exp':
      return values.some(Boolean)
    case 'find_exp': {
      const index = values.findIndex(Boolean)
      return index < 0 ? undefined : items[index]
    }
    case 'find_index_exp': {
      const index = values.findIndex(Boolean)
      return index < 0 ? undefined : index
    }
    default: {
      const groups = new Map<unknown, unknown[]>()
      for (const [index, value] of values.entries()) {
        const group = groups.get(value)
        if (group) group.push(items[index])
        else groups.set(value, [items[index]])
      }
      return [...groups].map(([key, members]) => ({ name: key, items: members }))
    }
  }
}
