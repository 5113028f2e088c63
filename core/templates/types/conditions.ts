/** Narrows the types of values by the conditions around them. */
import type { Expression, Operand } from '../tree.ts'
import { EMPTIED, notEmpty, ZERO, type Type } from './type.ts'

/** Narrowed types by path, e.g. `post.category` is not empty. */
export type Assumption = ReadonlyMap<string, Type>

/** Returns the type of a path. */
export type TypeOf = (path: readonly string[]) => Type

type Term = { operand: Operand } | { operator: string; terms: readonly Term[] }

/** Returns the types of the paths in a condition that holds, or does not hold. @param wanted whether it holds */
export function assumed(
  { operands, filters, postfix }: Expression,
  wanted: boolean,
  typeOf: TypeOf,
): Assumption {
  const found = new Map<string, Type>()
  if (filters.length > 0) return found
  const stack: Term[] = []
  for (const one of postfix ?? [0]) {
    if (typeof one === 'number') {
      const operand = operands[one]
      if (operand) stack.push({ operand })
    } else stack.push({ operator: one, terms: stack.splice(one === 'not' ? -1 : -2) })
  }
  const [whole] = stack
  if (whole) assume(whole, wanted, typeOf, found)
  return found
}

function assume(term: Term, wanted: boolean, typeOf: TypeOf, found: Map<string, Type>): void {
  if ('operand' in term) {
    const path = pathOf(term.operand)
    if (!path) return
    if (wanted) noteFilled(path, typeOf, found)
    // Except for booleans, only an empty value is false.
    else if (['row', 'list', 'text', 'date', 'html', 'number'].includes(typeOf(path).kind))
      found.set(path.join('.'), EMPTIED)
    return
  }
  const { operator, terms } = term
  const [left, right] = terms
  if (!left) return
  if (operator === 'not') assume(left, !wanted, typeOf, found)
  else if ((operator === 'and' && wanted) || (operator === 'or' && !wanted)) {
    assume(left, wanted, typeOf, found)
    if (right) assume(right, wanted, typeOf, found)
  } else if (right && operator !== 'and' && operator !== 'or')
    compare(operator, left, right, wanted, typeOf, found)
}

function compare(
  operator: string,
  left: Term,
  right: Term,
  wanted: boolean,
  typeOf: TypeOf,
  found: Map<string, Type>,
): void {
  if (!('operand' in left) || !('operand' in right)) return
  const path = pathOf(left.operand)
  if (!path) return
  const other = right.operand
  const isEmptiness = other.kind === 'constant' || (other.kind === 'literal' && other.value === '')
  const isEqual = operator === '==' ? wanted : operator === '!=' ? !wanted : undefined
  if (isEmptiness) {
    // “!= ''” also holds for an empty value, but is written to exclude it.
    if (isEqual === false) noteFilled(path, typeOf, found)
    else if (
      isEqual === true &&
      ((other.kind === 'constant' && other.name === 'nil') || ['text', 'html'].includes(typeOf(path).kind))
    )
      found.set(path.join('.'), EMPTIED)
    return
  }
  if (isSize(left.operand) && typeOf(path).kind === 'list' && saysNoItems(operator, other, wanted)) {
    found.set(path.join('.'), EMPTIED)
    return
  }
  if (typeOf(path).kind === 'number' && saysNoItems(operator, other, wanted)) {
    found.set(path.join('.'), ZERO)
    return
  }
  // An empty value equals no literal, and is neither larger nor smaller than another value.
  if (isEqual === true ? other.kind === 'literal' : isEqual === undefined && wanted) {
    noteFilled(path, typeOf, found)
    if (isSize(left.operand)) noteItems(path, typeOf, found)
  }
}

/** Whether a comparison of a size or a number of rows tells that there are none: `size == 0`, or that `size > 0` does not hold. */
function saysNoItems(operator: string, other: Operand, wanted: boolean): boolean {
  if (other.kind !== 'literal' || (other.value !== 0 && other.value !== 1)) return false
  return other.value === 0
    ? wanted === (operator === '==') && ['==', '!=', '>'].includes(operator)
    : wanted === (operator === '<') && ['<', '>='].includes(operator)
}

/** Records that a list has items. */
function noteItems(path: readonly string[], typeOf: TypeOf, found: Map<string, Type>): void {
  const list = typeOf(path)
  if (list.kind !== 'list') return
  for (const implied of list.implies ?? []) noteFilled(implied, typeOf, found)
  for (const step of ['first', 'last', '0', '-1']) found.set([...path, step].join('.'), notEmpty(list.of))
}

const isSize = (operand: Operand): boolean => operand.kind === 'path' && operand.steps.at(-1) === 'size'

/** Returns what is known where a list has rows: in a loop over it. */
export function assumedOfRows(list: Type, typeOf: TypeOf): Assumption {
  const found = new Map<string, Type>()
  if (list.kind === 'list') for (const one of list.implies ?? []) noteFilled(one, typeOf, found)
  return found
}

/** Records that neither a path nor any part of it is empty. */
function noteFilled(path: readonly string[], typeOf: TypeOf, found: Map<string, Type>): void {
  for (let length = 1; length <= path.length; length++) {
    const part = path.slice(0, length)
    found.set(part.join('.'), notEmpty(typeOf(part)))
  }
}

/** Returns the parts of a path without computed steps. `size` is left out: only a value that is not empty has one. */
function pathOf(operand: Operand): string[] | undefined {
  if (operand.kind !== 'path' || typeof operand.root !== 'string') return undefined
  const steps: string[] = []
  for (const one of operand.steps) {
    if (typeof one === 'object') return undefined
    steps.push(String(one))
  }
  if (steps.at(-1) === 'size') steps.pop()
  return [operand.root, ...steps]
}
