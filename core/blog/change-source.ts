/** Changes the source of a query, and removes the parts that the new source does not know. */
import { parseDocument } from 'yaml'
import {
  conditionChoices,
  countByChoices,
  namedChoices,
  operatorChoices,
  orderChoices,
  withChoices,
  type Choice,
} from '../queries/authoring/choices.ts'
import type { SourceName } from '../shapes/schemas.ts'
import { changeQuery } from './edit-query.ts'

export interface ChangedSource {
  text: string
  /** The removed parts, e.g. `order -publishedAt`. */
  removed: string[]
}

type Path = readonly (string | number)[]
interface Unknown {
  path: Path
  name: string
}

/** Returns the query with another source; undefined if its text cannot be changed. */
export function changeSource(text: string, source: SourceName): ChangedSource | undefined {
  const document = parseDocument(text)
  const query: unknown = document.errors.length > 0 ? null : document.toJS()
  if (!isMap(query)) return undefined
  const unknown = [
    ...unknownNames(query, 'with', withChoices(source)),
    ...unknownConditions(query['where'], ['where'], source),
    ...unknownNames(query, 'count-by', countByChoices(source)),
    ...unknownNames(query, 'order', [...orderChoices(source), ...countedChoices(query)]),
  ]
  let changed = changeQuery(text, ['from'], source)
  // From the last to the first, so that the earlier places stay the same.
  for (const { path } of unknown.toReversed())
    if (changed !== undefined) changed = changeQuery(changed, path, undefined)
  return changed === undefined ? undefined : { text: changed, removed: unknown.map(({ name }) => name) }
}

/** Counted rows are ordered by the fields that they are counted by, and by their number. */
const countedChoices = (query: Record<string, unknown>): Choice[] =>
  listOf(query['count-by']).length > 0 ? [{ value: 'count', detail: '' }] : []

function unknownNames(query: Record<string, unknown>, key: string, known: readonly Choice[]): Unknown[] {
  return listOf(query[key]).flatMap((one, index) => {
    const name = String(one).replace(/^-/, '')
    return known.some(({ value }) => value === name)
      ? []
      : [{ path: [key, index], name: `${key} ${String(one)}` }]
  })
}

/** Returns the conditions that the source does not know. A group with no other conditions is removed as a whole. */
function unknownConditions(conditions: unknown, path: Path, source: SourceName): Unknown[] {
  return listOf(conditions).flatMap((one, index) => unknownCondition(one, [...path, index], source))
}

function unknownCondition(condition: unknown, path: Path, source: SourceName): Unknown[] {
  if (typeof condition === 'string')
    return namedChoices(source).some(({ value }) => value === condition)
      ? []
      : [{ path, name: `where ${condition}` }]
  if (!isMap(condition)) return []
  if ('not' in condition) {
    const inside = unknownCondition(condition['not'], [...path, 'not'], source)
    return inside.length > 0 ? [{ path, name: inside.map(({ name }) => name).join(', ') }] : []
  }
  for (const kind of ['any', 'all'] as const)
    if (kind in condition) {
      const inside = unknownConditions(condition[kind], [...path, kind], source)
      const isWhole = inside.length > 0 && inside.length === listOf(condition[kind]).length
      return isWhole ? [{ path, name: inside.map(({ name }) => name).join(', ') }] : inside
    }
  const { field, is } = condition
  if (typeof field !== 'string') return []
  const isKnown =
    conditionChoices(source).some(({ value }) => value === field) &&
    operatorChoices(source, field).some(({ value }) => value === is)
  return isKnown ? [] : [{ path, name: `where ${field}` }]
}

const isMap = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

const listOf = (value: unknown): unknown[] => (Array.isArray(value) ? value : [])
