/** Checks the conditions of a query: unknown fields, operators that do not fit, values of the wrong type. */
import type { Worded } from '../shapes/catalogue.ts'
import { article } from '../shapes/explain-errors.ts'
import type { Condition, FieldCondition, SourceName } from '../shapes/schemas.ts'
import { parameterOf, parametersOf } from './clauses.ts'
import { fieldsInWords, findField, ownerOf } from './fields.ts'
import { QUERY_PROBLEMS } from './problems.ts'
import { SOURCE, type Field } from './sources.ts'

/** A problem at a place within the query. */
export interface MeaningProblem extends Worded {
  path: (string | number)[]
}

/**
 * Returns the problems of a condition and of the conditions nested in it.
 * @param path of the condition in its document
 */
export function* clauseProblems(
  source: SourceName,
  condition: Condition,
  path: (string | number)[],
): Generator<MeaningProblem> {
  if (typeof condition === 'string') {
    const known = Object.entries(SOURCE[source].conditions).flatMap(([name, { internal }]) =>
      internal ? [] : [name],
    )
    if (known.includes(condition)) return
    yield { path, ...QUERY_PROBLEMS['query-condition-unknown'](source, condition, known) }
  } else if ('not' in condition) yield* clauseProblems(source, condition.not, [...path, 'not'])
  else if ('any' in condition)
    for (const [index, one] of condition.any.entries())
      yield* clauseProblems(source, one, [...path, 'any', index])
  else if ('all' in condition)
    for (const [index, one] of condition.all.entries())
      yield* clauseProblems(source, one, [...path, 'all', index])
  else {
    const problem = conditionProblem(source, condition)
    if (problem) yield { ...problem.worded, path: [...path, problem.key] }
  }
}

/** Returns the first problem of a condition on a field, and the key that has it. */
function conditionProblem(
  source: SourceName,
  condition: FieldCondition,
): { key: string; worded: Worded } | undefined {
  const at = (key: keyof FieldCondition, worded: Worded) => ({ key, worded })
  const { field, is, to, when } = condition
  const found = findField(source, field)
  if (!found) return at('field', QUERY_PROBLEMS['query-field-unknown'](source, field, fieldsInWords(source)))
  const { type, long } = found.field
  if (long) return at('field', QUERY_PROBLEMS['query-field-not-comparable'](field))
  if (when === 'given' && parametersOf(condition).length === 0)
    return at('when', QUERY_PROBLEMS['query-when-without-parameter']())
  const takesNone = is === 'set' || is === 'unset'
  if (takesNone && to !== undefined) return at('to', QUERY_PROBLEMS['query-value-unexpected'](is))
  if (!takesNone && to === undefined) return at('to', QUERY_PROBLEMS['query-value-missing'](is))
  if (takesNone) return undefined
  if (is === 'within' && ownerOf(source, field) !== 'categories.slug')
    return at('is', QUERY_PROBLEMS['query-within-needs-category'](field))
  if (is === 'matches' && type !== 'words')
    return at('is', QUERY_PROBLEMS['query-matches-needs-words'](field, article(type)))
  if (is !== 'matches' && (type === 'words' || type === 'relevance'))
    return at('is', QUERY_PROBLEMS['query-words-need-matches'](field))
  if (is === 'in' && !Array.isArray(to)) return at('to', QUERY_PROBLEMS['query-in-needs-list']())
  if (is !== 'in' && Array.isArray(to)) return at('to', QUERY_PROBLEMS['query-list-unexpected'](is))
  if (is === 'contains' && !['text', 'slug', 'path'].includes(type))
    return at('is', QUERY_PROBLEMS['query-contains-needs-text'](field, article(type)))
  const wrong = (Array.isArray(to) ? to : [to]).find(
    (value) => parameterOf(value) === undefined && !fits(found.field, value),
  )
  return wrong === undefined
    ? undefined
    : at('to', QUERY_PROBLEMS['query-value-type'](JSON.stringify(wrong), article(type)))
}

function fits(field: Field, value: unknown): boolean {
  switch (field.type) {
    case 'integer':
      return Number.isInteger(value)
    case 'boolean':
      return typeof value === 'boolean'
    case 'time':
      return typeof value === 'string' && !Number.isNaN(Date.parse(value))
    default:
      return typeof value === 'string'
  }
}
