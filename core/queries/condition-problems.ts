/** What is wrong with a condition, where, and what to write instead. */
import type { Condition, FieldCondition, SourceName } from '../shapes/schemas.ts'
import { parameterOf, parametersOf } from './clauses.ts'
import { fieldsInWords, findField, ownerOf } from './fields.ts'
import { SOURCE, type Field } from './sources.ts'

export interface MeaningProblem {
  path: (string | number)[]
  message: string
  hint?: string
}

/** @param path of the condition in its document */
export function* clauseProblems(
  source: SourceName,
  condition: Condition,
  path: (string | number)[],
): Generator<MeaningProblem> {
  if (typeof condition === 'string') {
    if (condition in SOURCE[source].conditions) return
    yield {
      path,
      message: `${source} know no condition “${condition}”`,
      hint: `known: ${Object.keys(SOURCE[source].conditions).join(', ') || 'none'}`,
    }
  } else if ('not' in condition) yield* clauseProblems(source, condition.not, [...path, 'not'])
  else if ('any' in condition)
    for (const [index, one] of condition.any.entries())
      yield* clauseProblems(source, one, [...path, 'any', index])
  else if ('all' in condition)
    for (const [index, one] of condition.all.entries())
      yield* clauseProblems(source, one, [...path, 'all', index])
  else yield* conditionProblems(source, condition, path)
}

function conditionProblems(
  source: SourceName,
  condition: FieldCondition,
  path: (string | number)[],
): MeaningProblem[] {
  const found = findField(source, condition.field)
  if (!found) {
    return [
      {
        path: [...path, 'field'],
        message: `${source} have no field “${condition.field}”`,
        hint: fieldsInWords(source),
      },
    ]
  }
  if (found.field.long)
    return [{ path: [...path, 'field'], message: `“${condition.field}” cannot be compared` }]
  const { is, to, when } = condition
  if (when === 'given' && parametersOf(condition).length === 0)
    return [
      {
        path: [...path, 'when'],
        message: '“when: given” waits for a parameter, and this condition has none',
        hint: 'write “to: :name”, or leave “when” out',
      },
    ]
  const needsNone = is === 'set' || is === 'unset'
  if (needsNone !== (to === undefined)) {
    return [
      {
        path: [...path, 'to'],
        message: needsNone
          ? `“${is}” compares with nothing; leave “to” out`
          : `“${is}” needs a value in “to”`,
      },
    ]
  }
  if (needsNone) return []
  if (is === 'within' && ownerOf(source, condition.field) !== 'categories.slug')
    return [
      {
        path: [...path, 'is'],
        message: `“within” is for the slug of a category, with all below it; “${condition.field}” is none`,
        hint: 'write “{ field: category.slug, is: within, to: ":category" }”',
      },
    ]
  if ((is === 'matches') !== (found.field.type === 'words') || found.field.type === 'relevance')
    return [
      {
        path: [...path, 'is'],
        message:
          is === 'matches'
            ? `“matches” searches words; “${condition.field}” is ${article(found.field.type)}`
            : `“${condition.field}” is searched with “matches” only`,
        hint: 'write “{ field: words, is: matches, to: ":q" }”',
      },
    ]
  if ((is === 'in') !== Array.isArray(to)) {
    return [
      {
        path: [...path, 'to'],
        message: is === 'in' ? '“in” needs a list of values' : `“${is}” compares with one value, not a list`,
      },
    ]
  }
  if (is === 'contains' && !['text', 'slug', 'path'].includes(found.field.type)) {
    return [
      {
        path: [...path, 'is'],
        message: `“contains” compares texts; “${condition.field}” is ${article(found.field.type)}`,
      },
    ]
  }
  const wrong = (Array.isArray(to) ? to : [to]).find(
    (value) => parameterOf(value) === undefined && !fits(found.field, value),
  )
  return wrong === undefined
    ? []
    : [{ path: [...path, 'to'], message: `${JSON.stringify(wrong)} is not ${article(found.field.type)}` }]
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
const article = (type: string) => (/^[aeio]/.test(type) ? `an ${type}` : `a ${type}`)
