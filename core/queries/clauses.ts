/** The conditions of a query as clauses: combined with all, any and not, and skipped where a parameter is absent. */
import type { Condition, FieldCondition } from '../shapes/schemas.ts'

export type Clause =
  | { kind: 'named'; name: string }
  | { kind: 'field'; condition: FieldCondition }
  | { kind: 'all' | 'any'; clauses: readonly Clause[] }
  | { kind: 'not'; clause: Clause }

/** `:category` → `category`. */
export const parameterOf = (value: unknown): string | undefined =>
  typeof value === 'string' && /^:[a-z][a-z0-9-]*$/i.test(value) ? value.slice(1) : undefined

/** Turns a condition of a query into a clause. */
export function readClause(condition: Condition): Clause {
  if (typeof condition === 'string') return { kind: 'named', name: condition }
  if ('any' in condition) return { kind: 'any', clauses: condition.any.map(readClause) }
  if ('all' in condition) return { kind: 'all', clauses: condition.all.map(readClause) }
  if ('not' in condition) return { kind: 'not', clause: readClause(condition.not) }
  return { kind: 'field', condition }
}

/** Yields the plain conditions nested in clauses. */
export function* plainOf(clauses: Iterable<Clause>): Generator<Clause & { kind: 'named' | 'field' }> {
  for (const clause of clauses)
    if (clause.kind === 'named' || clause.kind === 'field') yield clause
    else yield* plainOf(clause.kind === 'not' ? [clause.clause] : clause.clauses)
}

export const fieldConditionsOf = (clauses: Iterable<Clause>): FieldCondition[] =>
  [...plainOf(clauses)].flatMap((one) => (one.kind === 'field' ? [one.condition] : []))

export const isOptional = ({ when }: FieldCondition): boolean => when === 'given'

/** True for a parameter that is missing or has no value. */
const isAbsent = (value: unknown): boolean => value === undefined || value === null || value === ''

/**
 * Returns the clause in force for some parameters. Conditions with `when: given` are skipped if their parameter is
 * absent, and so are groups in which no condition is left.
 */
export function givenClause(
  clause: Clause,
  parameters: Readonly<Record<string, unknown>>,
): Clause | undefined {
  switch (clause.kind) {
    case 'named':
      return clause
    case 'field': {
      const { condition } = clause
      if (!isOptional(condition)) return clause
      const values = Array.isArray(condition.to) ? condition.to : [condition.to]
      const isMissing = values.some((value) => {
        const name = parameterOf(value)
        return name !== undefined && isAbsent(Object.hasOwn(parameters, name) ? parameters[name] : undefined)
      })
      return isMissing ? undefined : clause
    }
    case 'not': {
      const inner = givenClause(clause.clause, parameters)
      return inner && { kind: 'not', clause: inner }
    }
    case 'all':
    case 'any': {
      const clauses = clause.clauses.flatMap((one) => givenClause(one, parameters) ?? [])
      return clauses.length === 0 ? undefined : { kind: clause.kind, clauses }
    }
  }
}

/** Returns the names of the parameters that a condition compares with. */
export const parametersOf = ({ to }: FieldCondition): string[] =>
  (Array.isArray(to) ? to : [to]).flatMap((one) => parameterOf(one) ?? [])
