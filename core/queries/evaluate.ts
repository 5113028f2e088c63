/**
 * Evaluates the conditions of a query on one row in memory, as PostgreSQL does: three-valued logic (SQL:2016 Part 2 §6.39,
 * Boolean value expression), comparisons with null are unknown, texts compare by code points (collation "C").
 */
import { offsetAt } from '../content/times.ts'
import type { FieldCondition, SourceName } from '../shapes/schemas.ts'
import { parameterOf, type Clause } from './clauses.ts'
import { findField } from './fields.ts'
import type { Field } from './sources.ts'

/** True, false, or null for unknown. Only true keeps a row. */
export type Truth = boolean | null

/**
 * A row with its related rows: `{ title, publishedAt, category: { slug, parent } | null, tags: [{ slug }] }`, with times as
 * Date. A category has its parent category as `parent`, for “within”.
 */
export type EvaluatedRow = Readonly<Record<string, unknown>>

export interface Circumstances {
  parameters: Readonly<Record<string, unknown>>
  /** The database's clock. */
  now: Date
  timeZone: string
}

/**
 * The truths that a clause can have, as a set of bits. A row of which only some fields are known gives several; a row
 * of which all are known gives one.
 */
type Possible = number
const TRUE = 1
const FALSE = 2
const NULL = 4
const ANY = TRUE | FALSE | NULL

const possible = (value: Truth): Possible => (value === true ? TRUE : value === false ? FALSE : NULL)

const not = (value: Possible): Possible =>
  (value & TRUE ? FALSE : 0) | (value & FALSE ? TRUE : 0) | (value & NULL)

function and(values: Iterable<Possible>): Possible {
  let result: Possible = TRUE
  for (const value of values) {
    const isNull = (result & NULL && value & (TRUE | NULL)) || (value & NULL && result & (TRUE | NULL))
    result = (result & value & TRUE) | ((result | value) & FALSE) | (isNull ? NULL : 0)
  }
  return result
}
const or = (values: Iterable<Possible>): Possible => not(and([...values].map(not)))

/** Evaluates a clause on a row with all its fields, as PostgreSQL does. */
export function evaluate(
  source: SourceName,
  clause: Clause,
  row: EvaluatedRow,
  circumstances: Circumstances,
): Truth {
  const truths = truthsOf(source, clause, row, circumstances)
  return truths === TRUE ? true : truths === FALSE ? false : null
}

/**
 * Decides whether a row can satisfy a clause, now or when its time comes. Fields that the row does not have may have any
 * value.
 */
export const mayHold = (
  source: SourceName,
  clause: Clause,
  row: EvaluatedRow,
  circumstances: Circumstances,
): boolean => (truthsOf(source, clause, row, { ...circumstances, eventually: true }) & TRUE) !== 0

function truthsOf(
  source: SourceName,
  clause: Clause,
  row: EvaluatedRow,
  circumstances: Circumstances & { eventually?: boolean },
): Possible {
  switch (clause.kind) {
    case 'named':
      return named(source, clause.name, row, circumstances)
    case 'field':
      return field(source, clause.condition, row, circumstances)
    case 'not':
      return not(truthsOf(source, clause.clause, row, circumstances))
    case 'all':
      return and(clause.clauses.map((one) => truthsOf(source, one, row, circumstances)))
    case 'any':
      return or(clause.clauses.map((one) => truthsOf(source, one, row, circumstances)))
  }
}

function named(
  source: SourceName,
  name: string,
  row: EvaluatedRow,
  { now, eventually = false }: Circumstances & { eventually?: boolean },
): Possible {
  const isPublic = (at: unknown): Possible =>
    at === undefined
      ? ANY
      : !(at instanceof Date)
        ? NULL
        : at.getTime() <= now.getTime()
          ? TRUE
          : eventually
            ? TRUE | FALSE
            : FALSE
  const equals = (value: unknown, wanted: unknown): Possible =>
    value === undefined ? ANY : possible(value === wanted)
  switch (`${source} ${name}`) {
    case 'posts published':
      return isPublic(row['publishedAt'])
    case 'pages in-navigation':
      return equals(row['inNavigation'], true)
    case 'comments approved':
      return and([equals(row['state'], 'shown'), equals(row['parentsShown'], true)])
    case 'comments shown': {
      const post = relatedOf(row, 'post')
      const onPublic = post === undefined ? ANY : isPublic(post?.['publishedAt'] ?? null)
      // EXISTS is never unknown.
      return and([
        equals(row['state'], 'shown'),
        equals(row['parentsShown'], true),
        onPublic & NULL ? (onPublic & TRUE) | FALSE : onPublic,
      ])
    }
    default:
      throw new Error(`Unknown condition “${name}” of ${source}`)
  }
}

const asRow = (value: unknown): EvaluatedRow | undefined =>
  typeof value === 'object' && value !== null ? (value as EvaluatedRow) : undefined

/** Returns a related row; null if there is none, and undefined if it is not known. */
const relatedOf = (row: EvaluatedRow, relation: string): EvaluatedRow | null | undefined =>
  row[relation] === undefined ? undefined : (asRow(row[relation]) ?? null)

function field(
  source: SourceName,
  condition: FieldCondition,
  row: EvaluatedRow,
  circumstances: Circumstances,
): Possible {
  const found = findField(source, condition.field)
  if (!found) throw new Error(`“${source}” has no field “${condition.field}”`)
  // Stems, stop words and spelling are known to the database only.
  if (condition.is === 'matches') return ANY
  const name = condition.field.split('.')[1] ?? condition.field
  if (condition.is === 'within') return within(found.relation, condition, row, circumstances)
  const compare = (owner: EvaluatedRow | null): Possible => {
    const value = valueOf(found.field, owner, name, circumstances)
    return value === undefined ? ANY : possible(compareWith(found.field, value, condition, circumstances))
  }
  if (found.relation === undefined) return compare(row)
  if (!found.many) {
    const related = relatedOf(row, found.relation)
    return related === undefined ? ANY : compare(related)
  }
  // At least one must match: EXISTS, which is never unknown.
  const related = row[found.relation]
  if (!Array.isArray(related)) return TRUE | FALSE
  const truths = related.map((one) => compare(asRow(one) ?? null))
  return truths.includes(TRUE) ? TRUE : truths.some((one) => one & TRUE) ? TRUE | FALSE : FALSE
}

/** Membership in a list of ids, which is never unknown. */
function within(
  relation: string | undefined,
  { to }: FieldCondition,
  row: EvaluatedRow,
  { parameters }: Circumstances,
): Possible {
  const bound = parameterOf(to)
  const slug = bound === undefined ? to : parameters[bound]
  if (typeof slug !== 'string') return FALSE
  let one = relation === undefined ? row : relatedOf(row, relation)
  while (one) {
    if (one['slug'] === slug) return TRUE
    one = one['slug'] === undefined ? undefined : relatedOf(one, 'parent')
  }
  return one === null ? FALSE : TRUE | FALSE
}

/** Returns the value of a field; null if there is no row, and undefined if it is not known. */
function valueOf(
  { partOf }: Field,
  owner: EvaluatedRow | null,
  name: string,
  { timeZone }: Circumstances,
): unknown {
  if (owner === null) return null
  if (!partOf) return owner[name]
  const at = owner[partOf.time]
  if (at === undefined) return undefined
  if (!(at instanceof Date)) return null
  const wall = new Date(at.getTime() + offsetAt(at.getTime(), timeZone))
  return { year: wall.getUTCFullYear(), month: wall.getUTCMonth() + 1, day: wall.getUTCDate() }[partOf.part]
}

function compareWith(
  kind: Field,
  left: unknown,
  { is, to }: FieldCondition,
  { parameters }: Circumstances,
): Truth {
  const value = (one: unknown): unknown => {
    const name = parameterOf(one)
    const bound = name === undefined ? one : Object.hasOwn(parameters, name) ? parameters[name] : null
    return bound === null || bound === undefined ? null : typed(kind, bound)
  }
  switch (is) {
    case 'set':
      return left !== null
    case 'unset':
      return left === null
    case 'in': {
      const truths = (Array.isArray(to) ? to : [to]).map((one) => equal(left, value(one)))
      return truths.includes(true) ? true : truths.includes(null) ? null : false
    }
    case 'not-equal':
      // IS DISTINCT FROM: null differs from everything but null.
      return left === null || value(to) === null ? left !== value(to) : order(left, value(to)) !== 0
    case 'contains': {
      const part = value(to)
      return left === null || part === null ? null : lower(String(left)).includes(lower(String(part)))
    }
    case 'equal':
      return equal(left, value(to))
    case 'within':
    case 'matches':
      throw new Error(`“${is}” is not a comparison`)
    case 'less':
    case 'at-most':
    case 'more':
    case 'at-least': {
      const right = value(to)
      if (left === null || right === null) return null
      const sign = order(left, right)
      return { less: sign < 0, 'at-most': sign <= 0, more: sign > 0, 'at-least': sign >= 0 }[is]
    }
  }
}

const equal = (left: unknown, right: unknown): Truth =>
  left === null || right === null ? null : order(left, right) === 0

/** Converts a bound value to the field's type: definitions and addresses contain times as texts. */
function typed({ type }: Field, value: unknown): unknown {
  if (type === 'time' && !(value instanceof Date)) return new Date(String(value))
  if (type === 'integer') return Number(value)
  return value
}

/** Compares two values: numbers and times by size, false before true, texts by code points. */
function order(left: unknown, right: unknown): number {
  if (left instanceof Date && right instanceof Date) return left.getTime() - right.getTime()
  if (typeof left === 'number' && typeof right === 'number') return left - right
  if (typeof left === 'boolean' && typeof right === 'boolean') return Number(left) - Number(right)
  return byCodePoints(String(left), String(right))
}

/** Compares texts as UTF-8 bytes compare. JavaScript compares UTF-16 code units. */
function byCodePoints(left: string, right: string): number {
  const [a, b] = [[...left], [...right]]
  for (let index = 0; index < Math.min(a.length, b.length); index++) {
    const difference = (a[index]?.codePointAt(0) ?? 0) - (b[index]?.codePointAt(0) ?? 0)
    if (difference !== 0) return difference
  }
  return a.length - b.length
}

/** Lower-cases as PostgreSQL’s lower() with the provider “libc” and C.UTF-8, which maps each character to one. */
const lower = (text: string): string =>
  [...text]
    .map((one) => {
      // In JavaScript, “İ” becomes two characters, of which the second is a combining dot.
      const [small = one] = one.toLowerCase()
      return small
    })
    .join('')
