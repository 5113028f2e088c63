/** Faults in expressions that follow from the types of their values. */
import { pathText, rowOf, type Expression, type Path } from '../tree.ts'
import type { ExpressionFault, FaultText } from './faults.ts'
import { literalText } from './filter-faults.ts'
import { canBeEmpty, kindInWords, withArticle, type Type } from './type.ts'

/** Returns comparisons of values whose types are never equal. @param types of the operands */
export function comparisonFaults(
  { operands, postfix }: Expression,
  types: readonly Type[],
): ExpressionFault[] {
  return equations(postfix).flatMap(({ operator, left, right }) => {
    const [path] = [operands[left], operands[right]].filter((one) => one?.kind === 'path')
    const [one, other] = [types[left], types[right]]
    if (path?.kind !== 'path' || !one || !other || !areNeverEqual(one, other)) return []
    const fault = {
      message: `${withArticle(kindInWords(one), true)} never equals ${withArticle(kindInWords(other))}, so the condition ${outcome(operator)} holds.`,
      hint: [one, other].some(({ kind }) => kind === 'row')
        ? 'Compare fields of the rows, such as their ids.'
        : 'Compare values of the same kind.',
    }
    return [{ kind: 'compare-never', place: path.place, subject: pathText(path), fault }]
  })
}

/** Numbers that are never below zero, and those that start at 1. */
const COUNT = /\.(size|total|\w*Count(Within)?|pageCount|from|to|depth|index0)$/
const FROM_ONE = /\.(page|index)$/
/** Comparisons with a number that never hold for anything that is not below zero, and those that always do. */
const DECIDED: Readonly<Record<string, (to: number, least: number) => boolean | undefined>> = {
  '<': (to, least) => (to <= least ? false : undefined),
  '<=': (to, least) => (to < least ? false : undefined),
  '>=': (to, least) => (to <= least ? true : undefined),
  '>': (to, least) => (to < least ? true : undefined),
}

/** Returns comparisons of counts with numbers that they are never or always above. @param types of the operands */
export function countFaults(
  { operands, postfix = [] }: Expression,
  types: readonly Type[],
): ExpressionFault[] {
  return postfix.flatMap((operator, index) => {
    const [left, right] = [postfix[index - 2], postfix[index - 1]]
    if (typeof left !== 'number' || typeof right !== 'number') return []
    const [path, literal] = [operands[left], operands[right]]
    if (path?.kind !== 'path' || literal?.kind !== 'literal' || typeof literal.value !== 'number') return []
    const subject = pathText(path)
    const least = FROM_ONE.test(subject) ? 1 : COUNT.test(subject) ? 0 : undefined
    if (least === undefined || types[left]?.kind !== 'number') return []
    const holds = DECIDED[String(operator)]?.(literal.value, least)
    if (holds === undefined) return []
    const fault = {
      message: `“${subject}” is at least ${least}, so the condition “${String(operator)} ${literal.value}” ${holds ? 'always' : 'never'} holds.`,
      hint: 'Compare with another number, or the other way round.',
    }
    return [{ kind: 'compare-never', place: path.place, subject, fault }]
  })
}

/** The names that `request.route` has on pages without a route. */
const OTHER_ROUTES: readonly string[] = ['not-found', 'error']

/** Returns comparisons of `request.route` with a name that no route has. @param routes by name */
export function routeNameFaults(
  { operands, postfix }: Expression,
  routes: ReadonlyMap<string, unknown>,
): ExpressionFault[] {
  return equations(postfix).flatMap(({ operator, left, right }) => {
    const two = [operands[left], operands[right]]
    const path = two.find((one) => one?.kind === 'path')
    const name = literalText(two.find((one) => one?.kind === 'literal'))
    if (path?.kind !== 'path' || pathText(path) !== 'request.route' || name === undefined) return []
    if (routes.has(name) || OTHER_ROUTES.includes(name)) return []
    const message = `There is no route “${name}”, so the condition ${outcome(operator)} holds.`
    return [
      {
        kind: 'route-unknown',
        place: path.place,
        subject: name,
        fault: { message, names: [...routes.keys()] },
      },
    ]
  })
}

/** Returns a name or title where an address has the slug of the same row. @param row the row that the path is a field of */
export function slugFaults(
  { route, parameter }: { route: string; parameter: string },
  path: Path,
  row: Type,
): ExpressionFault[] {
  const last = path.steps.at(-1)
  if ((last !== 'name' && last !== 'title') || row.kind !== 'row' || !row.fields.has('slug')) return []
  const subject = pathText(path)
  const fault = {
    message: `“${parameter}” of route “${route}” is a slug, and “${subject}” is a ${last}.`,
    hint: `Use ${[...rowOf(path), 'slug'].join('.')}.`,
  }
  return [{ kind: 'slug-expected', place: path.place, subject, fault }]
}

/** Returns a condition that only asks whether there is a list, which there always is; undefined for other conditions. */
export function alwaysTrueFault(
  { operands: [only], postfix, filters }: Expression,
  type: Type,
): { path: Path; fault: FaultText | undefined } | undefined {
  if (only?.kind !== 'path' || postfix || filters.length > 0) return undefined
  const subject = pathText(only)
  const isPage = type.kind === 'row' && type.name.startsWith('page of ')
  if (canBeEmpty(type) || (type.kind !== 'list' && !isPage)) return { path: only, fault: undefined }
  const list = isPage ? `${subject}.items` : subject
  const fault = {
    message: `“${subject}” is a ${isPage ? 'page of a list' : 'list'}, which counts as true even without any rows.`,
    hint: `Ask for its size: ${list}.size > 0.`,
  }
  return { path: only, fault }
}

const outcome = (operator: '==' | '!=') => (operator === '==' ? 'never' : 'always')

/** Returns the comparisons for equality in an expression, with the indexes of their operands. */
function equations(
  postfix: Expression['postfix'] = [],
): { operator: '==' | '!='; left: number; right: number }[] {
  return postfix.flatMap((operator, index) => {
    const [left, right] = [postfix[index - 2], postfix[index - 1]]
    const isEquation = operator === '==' || operator === '!='
    return isEquation && typeof left === 'number' && typeof right === 'number'
      ? [{ operator, left, right }]
      : []
  })
}

const PLAIN = new Set<Type['kind']>(['text', 'number', 'boolean', 'date', 'html'])

const NO_BOOLEAN = new Set<Type['kind']>(['text', 'html', 'date'])
const NO_NUMBER = new Set<Type['kind']>(['text', 'html', 'date', 'boolean'])

/** Whether values of two types are never equal, unless both are empty. */
const areNeverEqual = (one: Type, other: Type): boolean =>
  ((one.kind === 'row' || one.kind === 'list') && PLAIN.has(other.kind)) ||
  ((other.kind === 'row' || other.kind === 'list') && PLAIN.has(one.kind)) ||
  (one.kind === 'number' && NO_NUMBER.has(other.kind)) ||
  (other.kind === 'number' && NO_NUMBER.has(one.kind)) ||
  (one.kind === 'boolean' && NO_BOOLEAN.has(other.kind)) ||
  (other.kind === 'boolean' && NO_BOOLEAN.has(one.kind))
