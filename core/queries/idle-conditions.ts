/**
 * Finds conditions of a query that never change its result, and conditions that no row can meet together. It is a proof:
 * every combination of true, false and unknown (SQL's logic of three values) is tried that the conditions can have
 * together.
 */
import type { Condition, FieldCondition, SourceName } from '../shapes/schemas.ts'
import { describeCondition } from './explaining/describe.ts'
import {
  fieldConditionsOf,
  givenClause,
  isOptional,
  parametersOf,
  plainOf,
  readClause,
  type Clause,
} from './clauses.ts'
import { findField } from './fields.ts'
import { SOURCE } from './sources.ts'

export interface IdleCondition {
  /** Where it is in `where`, e.g. `[2]`, or `[1, 'any', 0]`. */
  path: (string | number)[]
  /** The condition in words. */
  condition: string
  /** Why it changes nothing, as a sentence. */
  because: string
}

export interface Idleness {
  idle: IdleCondition[]
  /** Whether no row can meet all conditions. */
  isImpossible: boolean
}

/** More plain conditions have too many combinations. */
const MOST = 7
/** More conditions that may be skipped are too many cases. */
const MOST_OPTIONAL = 3

/** null: unknown, because a value is empty. */
type Truth = true | false | null
type Plain = Clause & { kind: 'named' | 'field' }

/** @returns undefined if there are too many conditions to try */
export function idleConditions(from: SourceName, where: readonly Condition[]): Idleness | undefined {
  const clauses = where.map(readClause)
  const atoms = new Map([...plainOf(clauses)].map((one) => [keyOf(one), one]))
  const optional = [
    ...new Set(fieldConditionsOf(clauses).flatMap((one) => (isOptional(one) ? parametersOf(one) : []))),
  ]
  if (atoms.size > MOST || optional.length > MOST_OPTIONAL) return undefined
  const rows = assignments(from, atoms)
  const cases = subsets(optional).map((given) => Object.fromEntries(given.map((name) => [name, 'given'])))
  /** The rows that conditions keep, one text for each case of given parameters. */
  const keptBy = (list: readonly Condition[]): string[] =>
    cases.map((parameters) => {
      const inForce = list.map(readClause).flatMap((one) => givenClause(one, parameters) ?? [])
      return rows.map((row) => (truthOf({ kind: 'all', clauses: inForce }, row) === true ? 1 : 0)).join('')
    })
  const kept = keptBy(where)
  if (kept.every((one) => !one.includes('1'))) return { idle: [], isImpossible: where.length > 0 }
  const idle: IdleCondition[] = []
  // Of two equal conditions, only one can be left out: what was found is left out from then on.
  let current: readonly Condition[] = where
  const look = (list: readonly Condition[], path: (string | number)[]) => {
    for (const [index, condition] of list.entries()) {
      const own = [...path, index]
      const rest = without(current, own)
      const isIdle = (list: readonly Condition[]) => keptBy(list).every((one, at) => one === kept[at])
      if (isIdle(without(where, own)) && isIdle(rest)) {
        const alone = keptBy([condition])
        idle.push({
          path: own,
          condition: inWords(condition),
          because: alone.every((one) => !one.includes('0'))
            ? 'Every row meets it.'
            : path.length > 0 && path.includes('any')
              ? 'The other conditions of its group, or those around it, decide without it.'
              : reason(rest, condition, keptBy),
        })
        current = rest
        continue
      }
      if (typeof condition === 'string') continue
      if ('any' in condition) look(condition.any, [...own, 'any'])
      else if ('all' in condition) look(condition.all, [...own, 'all'])
    }
  }
  look(where, [])
  return { idle, isImpossible: false }
}

/** Names the one condition that implies another, if there is one. */
function reason(
  others: readonly Condition[],
  condition: Condition,
  keptBy: (list: readonly Condition[]) => string[],
): string {
  const implying = others.find((other) => {
    if (other === NONE) return false
    const both = keptBy([other, condition])
    return keptBy([other]).every((one, at) => one === both[at])
  })
  if (implying === undefined) return 'The other conditions imply it.'
  return JSON.stringify(implying) === JSON.stringify(condition)
    ? 'The same condition is there twice.'
    : `Every row that meets “${inWords(implying)}” meets it.`
}

export const inWords = (condition: Condition): string => {
  if (typeof condition === 'string') return condition
  if ('any' in condition) return condition.any.map(inWords).join(' or ')
  if ('all' in condition) return condition.all.map(inWords).join(' and ')
  if ('not' in condition) return `not: ${inWords(condition.not)}`
  return describeCondition(condition)
}

/** Stands for no condition, so that the others keep their places. */
const NONE: Condition = { all: [] }

/** Returns a list of conditions without the one at a path. */
const without = (
  list: readonly Condition[],
  [index, group, ...rest]: (string | number)[],
): readonly Condition[] =>
  list.map((one, at) => {
    if (at !== index) return one
    if (group === 'any' && typeof one === 'object' && 'any' in one)
      return { any: [...without(one.any, rest)] }
    if (group === 'all' && typeof one === 'object' && 'all' in one)
      return { all: [...without(one.all, rest)] }
    return NONE
  })

const keyOf = (atom: Plain): string =>
  atom.kind === 'named'
    ? atom.name
    : JSON.stringify([atom.condition.field, atom.condition.is, atom.condition.to ?? null])

function truthOf(clause: Clause, row: ReadonlyMap<string, Truth>): Truth {
  switch (clause.kind) {
    case 'named':
    case 'field':
      return row.get(keyOf(clause)) ?? null
    case 'not': {
      const inner = truthOf(clause.clause, row)
      return inner === null ? null : !inner
    }
    case 'all':
    case 'any': {
      const deciding = clause.kind === 'any'
      const truths = clause.clauses.map((one) => truthOf(one, row))
      return truths.includes(deciding) ? deciding : truths.includes(null) ? null : !deciding
    }
  }
}

/** Returns what plain conditions can be together. */
function assignments(from: SourceName, atoms: ReadonlyMap<string, Plain>): Map<string, Truth>[] {
  let rows: Map<string, Truth>[] = [new Map()]
  const done: [string, Plain][] = []
  for (const [key, atom] of atoms) {
    rows = rows.flatMap((row) =>
      truthsOf(from, atom)
        .filter((truth) =>
          done.every(([other, one]) => isPossible(from, [one, row.get(other) ?? null], [atom, truth])),
        )
        .map((truth) => new Map([...row, [key, truth]])),
    )
    done.push([key, atom])
  }
  return rows
}

/** Whether a field is of one row at most, so that two conditions on it speak of the same value. */
const isSingle = (from: SourceName, name: string): boolean => findField(from, name)?.many !== true

function isNullable(from: SourceName, name: string): boolean {
  const found = findField(from, name)
  const relation = found?.relation === undefined ? undefined : SOURCE[from].relations[found.relation]
  return !found || found.field.nullable === true || (relation !== undefined && relation.nullable)
}

/** Returns the truths that a condition can have by itself. */
function truthsOf(from: SourceName, atom: Plain): Truth[] {
  if (atom.kind === 'named') return [true, false, null]
  const { field, is } = atom.condition
  const canBeEmpty = isNullable(from, field)
  if (is === 'set' && isSingle(from, field)) return canBeEmpty ? [true, false] : [true]
  if (is === 'unset' && isSingle(from, field)) return canBeEmpty ? [true, false] : [false]
  const always = isCount(field)
    ? ofNonNegative(atom.condition)
    : isNeverBlank(from, field)
      ? ofFilled(atom.condition)
      : undefined
  if (always !== undefined) return canBeEmpty ? [always, null] : [always]
  return canBeEmpty ? [true, false, null] : [true, false]
}

/** Whether a field counts something, so that it is never negative. */
const isCount = (field: string): boolean => field === 'wordCount' || field === 'id'

/** Fields that a save requires to have a text. */
const REQUIRED: Partial<Record<SourceName, readonly string[]>> = {
  posts: ['title', 'slug'],
  pages: ['title'],
  categories: ['name', 'slug'],
  tags: ['name', 'slug'],
  authors: ['name', 'slug'],
}

const isNeverBlank = (from: SourceName, field: string): boolean => REQUIRED[from]?.includes(field) === true

/** Whether a condition on a text that is never blank always holds, or never. */
const ofFilled = ({ is, to }: FieldCondition): boolean | undefined =>
  to !== '' ? undefined : is === 'not-equal' ? true : is === 'equal' ? false : undefined

function ofNonNegative({ is, to }: FieldCondition): boolean | undefined {
  if (typeof to !== 'number') return undefined
  if ((is === 'at-least' && to <= 0) || (is === 'more' && to < 0)) return true
  if ((is === 'less' && to <= 0) || (is === 'at-most' && to < 0)) return false
  return undefined
}

type Known = readonly [Plain, Truth]

/** Whether two conditions can have these truths for the same row. Where that is not certain, they can. */
function isPossible(from: SourceName, [a, truthA]: Known, [b, truthB]: Known): boolean {
  if (a.kind === 'named' && b.kind === 'named') return true
  if (a.kind === 'named') return isPossibleIfNamed(a.name, truthA, [b, truthB])
  if (b.kind === 'named') return isPossibleIfNamed(b.name, truthB, [a, truthA])
  const [x, y] = [a.condition, b.condition]
  if (x.field !== y.field || !isSingle(from, x.field)) return true
  const [emptyX, emptyY] = [isEmpty(x, truthA), isEmpty(y, truthB)]
  if (emptyX !== undefined && emptyY !== undefined) return emptyX === emptyY
  if (emptyX !== undefined) return !emptyX || !isOfValue(y, truthB)
  if (emptyY !== undefined) return !emptyY || !isOfValue(x, truthA)
  if (truthA === null || truthB === null) return true
  // An empty value may make both false. A condition that holds tells that there is a value.
  if (isNullable(from, x.field) && !isOfValue(x, truthA) && !isOfValue(y, truthB)) return true
  if (JSON.stringify(x.to) === JSON.stringify(y.to) && OPPOSITE[x.is] === y.is) return truthA !== truthB
  const points = pointsOf(x, y)
  return points === undefined || points.some((at) => holds(x, at) === truthA && holds(y, at) === truthB)
}

/** What is published has a date. */
function isPossibleIfNamed(name: string, truth: Truth, [other, of]: Known): boolean {
  if (name !== 'published' || truth !== true || other.kind !== 'field') return true
  return other.condition.field !== 'publishedAt' || isEmpty(other.condition, of) !== true
}

/** Whether the value is empty, as `set` or `unset` tells; undefined for other conditions. */
const isEmpty = ({ is }: FieldCondition, truth: Truth): boolean | undefined =>
  is === 'set' ? truth === false : is === 'unset' ? truth === true : undefined

/** Whether a condition is met in a way that no empty value can meet. */
const isOfValue = ({ is }: FieldCondition, truth: Truth): boolean => truth === true && is !== 'not-equal'

const OPPOSITE: Partial<Record<FieldCondition['is'], FieldCondition['is']>> = {
  equal: 'not-equal',
  'not-equal': 'equal',
  less: 'at-least',
  'at-least': 'less',
  more: 'at-most',
  'at-most': 'more',
}

/** Returns values that can be told apart by two comparisons with numbers or texts; undefined if one compares otherwise. */
function pointsOf(x: FieldCondition, y: FieldCondition): (string | number)[] | undefined {
  const values = [x, y].flatMap(({ to }) => (Array.isArray(to) ? to : [to]))
  if (values.every((one) => typeof one === 'number') && [x, y].every((one) => NUMBERS.has(one.is)))
    return values.flatMap((one) => [one - 1, one - 0.5, one, one + 0.5, one + 1])
  const areTexts = values.every((one): one is string => typeof one === 'string')
  if (areTexts && [x, y].every((one) => parametersOf(one).length === 0 && TEXTS.has(one.is)))
    return [...values, 'a text that none of them is']
  return undefined
}

const NUMBERS = new Set(['equal', 'not-equal', 'less', 'at-most', 'more', 'at-least', 'in'])
const TEXTS = new Set(['equal', 'not-equal', 'in'])

function holds({ is, to }: FieldCondition, value: string | number): boolean {
  const list: unknown[] = Array.isArray(to) ? to : [to]
  const [first] = list as [string | number]
  switch (is) {
    case 'equal':
    case 'in':
      return list.includes(value)
    case 'not-equal':
      return !list.includes(value)
    case 'less':
      return value < first
    case 'at-most':
      return value <= first
    case 'more':
      return value > first
    case 'at-least':
      return value >= first
    default:
      return false
  }
}

function subsets<T>(all: readonly T[]): T[][] {
  return all.reduce<T[][]>((some, one) => [...some, ...some.map((own) => [...own, one])], [[]])
}
