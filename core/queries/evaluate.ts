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

const and = (values: Iterable<Truth>): Truth => {
  let result: Truth = true
  for (const value of values) {
    if (value === false) return false
    if (value === null) result = null
  }
  return result
}
const or = (values: Iterable<Truth>): Truth => not(and([...values].map(not)))
const not = (value: Truth): Truth => (value === null ? null : !value)

export function evaluate(
  source: SourceName,
  clause: Clause,
  row: EvaluatedRow,
  circumstances: Circumstances,
): Truth {
  switch (clause.kind) {
    case 'named':
      return named(source, clause.name, row, circumstances.now)
    case 'field':
      return field(source, clause.condition, row, circumstances)
    case 'not':
      return not(evaluate(source, clause.clause, row, circumstances))
    case 'all':
      return and(clause.clauses.map((one) => evaluate(source, one, row, circumstances)))
    case 'any':
      return or(clause.clauses.map((one) => evaluate(source, one, row, circumstances)))
  }
}

function named(source: SourceName, name: string, row: EvaluatedRow, now: Date): Truth {
  const isPublic = (at: unknown): Truth => (at instanceof Date ? at.getTime() <= now.getTime() : null)
  switch (`${source} ${name}`) {
    case 'posts published':
      return isPublic(row['publishedAt'])
    case 'pages in-navigation':
      return row['inNavigation'] === true
    case 'comments shown':
      // EXISTS is never unknown.
      return row['state'] === 'shown' && isPublic(asRow(row['post'])?.['publishedAt']) === true
    default:
      throw new Error(`Unknown condition “${name}” of ${source}`)
  }
}

const asRow = (value: unknown): EvaluatedRow | undefined =>
  typeof value === 'object' && value !== null ? (value as EvaluatedRow) : undefined

function field(
  source: SourceName,
  condition: FieldCondition,
  row: EvaluatedRow,
  circumstances: Circumstances,
): Truth {
  const found = findField(source, condition.field)
  if (!found) throw new Error(`“${source}” has no field “${condition.field}”`)
  const name = condition.field.split('.')[1] ?? condition.field
  if (condition.is === 'within') {
    const bound = parameterOf(condition.to)
    const slug = bound === undefined ? condition.to : circumstances.parameters[bound]
    // Membership in a list is never unknown.
    for (
      let one = found.relation === undefined ? row : asRow(row[found.relation]);
      one;
      one = asRow(one['parent'])
    )
      if (typeof slug === 'string' && one['slug'] === slug) return true
    return false
  }
  const compare = (owner: EvaluatedRow | undefined) =>
    compareWith(found.field, valueOf(found.field, owner, name, circumstances), condition, circumstances)
  if (found.relation === undefined) return compare(row)
  if (!found.many) return compare(asRow(row[found.relation]))
  // At least one must match: EXISTS, which is never unknown.
  const related = row[found.relation]
  return Array.isArray(related) && related.some((one) => compare(asRow(one)) === true)
}

function valueOf(
  { partOf }: Field,
  owner: EvaluatedRow | undefined,
  name: string,
  { timeZone }: Circumstances,
): unknown {
  if (!partOf) return owner?.[name] ?? null
  const at = owner?.[partOf.time]
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
    case 'in':
      return or((Array.isArray(to) ? to : [to]).map((one) => equal(left, value(one))))
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
      throw new Error('“within” is evaluated by its caller')
    case 'matches':
      // Stems, stop words and spelling are known to the database only.
      return null
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
