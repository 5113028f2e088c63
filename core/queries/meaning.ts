/** Checks a query against its source, makes its order total and names everything it depends on. */
import type { Query, SourceName, FieldCondition } from '../shapes/schemas.ts'
import {
  fieldConditionsOf,
  givenClause,
  isOptional,
  parametersOf,
  plainOf,
  readClause,
  type Clause,
} from './clauses.ts'
import { clauseProblems, type MeaningProblem } from './condition-problems.ts'
import { fieldsInWords, findField } from './fields.ts'
import { SOURCE } from './sources.ts'

export interface OrderKey {
  field: string
  descending: boolean
}

export type Take =
  | { kind: 'one' }
  | { kind: 'first'; count: number }
  | { kind: 'all' }
  | {
      kind: 'pages'
      by: 'number' | 'cursor'
      size: number
      parameter: string
      /** Of numbered pages. */
      pastTheEnd: 'not-found' | 'last' | 'empty'
      /** `none`: by cursor, nothing is counted unless the query says so. */
      count: 'exact' | 'estimated' | 'none'
    }

/** A query with everything decided: what the compiler, the sentence and the cache read. */
export interface QueryMeaning {
  from: SourceName
  relations: string[]
  counts: string[]
  named: string[]
  conditions: FieldCondition[]
  /** What stands in groups: all of them must hold, too. */
  groups: Clause[]
  /** Fields by whose values rows are counted; empty where the rows themselves come back. */
  countBy: string[]
  order: OrderKey[]
  /** True when the id, or the rest of `countBy`, had to be added to make the order total. */
  orderCompleted: boolean
  take: Take
  empty: 'not-found' | 'next-route' | 'allow'
  /** Parameters it reads, without the colon. */
  parameters: string[]
  /** Of these, those that may be absent: they stand in conditions `when: given` only. */
  optional: string[]
  /** Sources whose changes may change which rows come back. */
  sources: SourceName[]
  /** True when membership changes by itself as time passes. */
  timed: boolean
  /** True when a row found can only be replaced by a change of that row itself. */
  byUnique: boolean
}

export function readMeaning(
  query: Query,
): { ok: true; meaning: QueryMeaning } | { ok: false; problems: MeaningProblem[] } {
  const problems: MeaningProblem[] = []
  const source = SOURCE[query.from]
  const relations: string[] = []
  const counts: string[] = []
  for (const [index, name] of (query.with ?? []).entries()) {
    if (name in source.relations) relations.push(name)
    else if (name in source.counts) counts.push(name)
    else {
      problems.push({
        path: ['with', index],
        message: `${query.from} have no “${name}”`,
        hint: `known: ${[...Object.keys(source.relations), ...Object.keys(source.counts)].join(', ') || 'none'}`,
      })
    }
  }

  const named: string[] = []
  const conditions: FieldCondition[] = []
  const groups: Clause[] = []
  for (const [index, condition] of (query.where ?? []).entries()) {
    const wrong = [...clauseProblems(query.from, condition, ['where', index])]
    problems.push(...wrong)
    if (wrong.length > 0) continue
    const clause = readClause(condition)
    if (clause.kind === 'named') named.push(clause.name)
    else if (clause.kind === 'field') conditions.push(clause.condition)
    else groups.push(clause)
  }

  const take = readTake(query, problems)
  const countBy = readCountBy(query, problems)
  const isSearched = fieldConditionsOf([...conditionClauses(conditions), ...groups]).some(
    (one) => one.is === 'matches',
  )
  const order: OrderKey[] = []
  for (const [index, text] of (query.order ?? []).entries()) {
    const descending = text.startsWith('-')
    const field = descending ? text.slice(1) : text
    const wrong = orderProblem(query.from, field, countBy, isSearched)
    if (wrong) problems.push({ path: ['order', index], ...wrong })
    else order.push({ field, descending })
  }
  const missing =
    countBy.length > 0
      ? countBy.filter((field) => !order.some((one) => one.field === field))
      : order.some(({ field }) => !field.includes('.') && source.fields[field]?.unique === true)
        ? []
        : ['id']
  const descending = countBy.length === 0 && (order.at(-1)?.descending ?? false)
  order.push(...missing.map((field) => ({ field, descending })))
  const orderCompleted = missing.length > 0

  if (problems.length > 0) return { ok: false, problems }
  const allConditions = [...conditions, ...fieldConditionsOf(groups)]
  const namedInGroups = [...plainOf(groups)].flatMap((one) => (one.kind === 'named' ? [one.name] : []))
  const conditionsInForce = [...named, ...namedInGroups].map((name) => source.conditions[name])
  const required = new Set(
    allConditions.filter((one) => !isOptional(one)).flatMap((one) => parametersOf(one)),
  )
  const parameters = [...new Set(allConditions.flatMap((one) => parametersOf(one)))]
  const related = [...allConditions, ...countBy.map((field) => ({ field }))].flatMap(({ field }) => {
    const name = field.split('.')[0] ?? ''
    const relation = field.includes('.') ? source.relations[name]?.source : undefined
    return relation && relation !== 'images' ? [relation] : []
  })
  const countedSources = counts.flatMap((name) => source.counts[name]?.sources ?? [])
  return {
    ok: true,
    meaning: {
      from: query.from,
      relations,
      counts,
      named,
      conditions,
      groups,
      countBy,
      order,
      orderCompleted,
      take,
      empty: query.empty ?? 'allow',
      parameters,
      optional: parameters.filter((one) => !required.has(one)),
      sources: [
        ...new Set([
          query.from,
          ...related,
          ...conditionsInForce.flatMap((one) => one?.sources ?? []),
          ...countedSources.filter((one) => one !== 'comments'),
          ...(allConditions.some((one) => one.is === 'within') ? (['categories'] as const) : []),
        ]),
      ],
      timed: conditionsInForce.some((one) => one?.timed) || countedSources.includes('posts'),
      byUnique:
        take.kind === 'one' &&
        conditions.some(
          (one) => one.is === 'equal' && !isOptional(one) && source.fields[one.field]?.unique === true,
        ),
    },
  }
}

const conditionClauses = (conditions: readonly FieldCondition[]): Clause[] =>
  conditions.map((condition) => ({ kind: 'field', condition }))

/** True when one of its conditions searches words. */
export const isSearch = (meaning: Pick<QueryMeaning, 'named' | 'conditions' | 'groups'>): boolean =>
  fieldConditionsOf(clausesOf(meaning)).some((one) => one.is === 'matches')

/** All clauses of a meaning, which must all hold. */
export const clausesOf = ({
  named,
  conditions,
  groups,
}: Pick<QueryMeaning, 'named' | 'conditions' | 'groups'>): Clause[] => [
  ...named.map((name): Clause => ({ kind: 'named', name })),
  ...conditions.map((condition): Clause => ({ kind: 'field', condition })),
  ...groups,
]

/** The meaning for some parameters: without what falls away. The same one where nothing does. */
export function givenMeaning(
  meaning: QueryMeaning,
  parameters: Readonly<Record<string, unknown>>,
): QueryMeaning {
  if (meaning.optional.length === 0) return meaning
  const kept = (clause: Clause) => givenClause(clause, parameters)
  const given = {
    ...meaning,
    conditions: meaning.conditions.filter((condition) => kept({ kind: 'field', condition }) !== undefined),
    groups: meaning.groups.flatMap((one) => kept(one) ?? []),
  }
  // Where nothing is searched, nothing fits better than anything else.
  return isSearch(given) ? given : { ...given, order: given.order.filter((one) => one.field !== 'relevance') }
}

function readTake(query: Query, problems: MeaningProblem[]): Take {
  if (query.take !== 'pages' && query.pages) {
    problems.push({ path: ['pages'], message: '“pages” goes with “take: pages”' })
  }
  if (query.empty === 'next-route' && query.take !== 'one') {
    problems.push({ path: ['empty'], message: '“next-route” goes with “take: one”' })
  }
  if (query.take === 'one') return { kind: 'one' }
  if (query.take === 'all') return { kind: 'all' }
  if (query.take === 'pages') {
    if (!query.pages) problems.push({ path: ['take'], message: '“take: pages” needs “pages: { size: … }”' })
    const by = query.pages?.by ?? 'number'
    if (by === 'cursor' && query.pages?.['past-the-end'] !== undefined)
      problems.push({
        path: ['pages', 'past-the-end'],
        message: 'pages by cursor have no numbers, so nobody can ask for one past the end',
        hint: 'leave it out',
      })
    return {
      kind: 'pages',
      by,
      size: query.pages?.size ?? 10,
      parameter: query.pages?.parameter ?? 'page',
      pastTheEnd: by === 'cursor' ? 'empty' : (query.pages?.['past-the-end'] ?? 'not-found'),
      count: query.pages?.count ?? (by === 'cursor' ? 'none' : 'exact'),
    }
  }
  return { kind: 'first', count: Number(query.take.slice('first '.length)) }
}

/** What is wrong with a field that rows are to be ordered by. */
function orderProblem(
  from: SourceName,
  field: string,
  countBy: readonly string[],
  isSearched: boolean,
): Omit<MeaningProblem, 'path'> | undefined {
  if (countBy.length > 0)
    return field === 'count' || countBy.includes(field)
      ? undefined
      : {
          message: `what is counted has no “${field}” to order by`,
          hint: `known: count, ${countBy.join(', ')}`,
        }
  const found = findField(from, field)
  if (found?.field.type === 'relevance')
    return isSearched
      ? undefined
      : {
          message: '“relevance” is how well a post fits a search, and no condition searches',
          hint: 'add “{ field: words, is: matches, to: ":q" }”, or order by something else',
        }
  if (found && !found.many && !found.field.long && found.field.type !== 'words') return undefined
  return {
    message: found ? `“${field}” cannot order rows` : `${from} have no field “${field}”`,
    hint: fieldsInWords(from),
  }
}

function readCountBy(query: Query, problems: MeaningProblem[]): string[] {
  const fields = query['count-by'] ?? []
  for (const [index, name] of fields.entries()) {
    const found = findField(query.from, name)
    const report = (message: string, hint?: string) =>
      problems.push({ path: ['count-by', index], message, ...(hint === undefined ? {} : { hint }) })
    if (!found) report(`${query.from} have no field “${name}”`, fieldsInWords(query.from))
    else if (found.field.long || ['words', 'relevance', 'time'].includes(found.field.type))
      report(
        `“${name}” has nearly as many values as there are rows, so there is nothing to count by it`,
        found.field.type === 'time' ? 'count by its year, month or day' : undefined,
      )
    else if (fields.indexOf(name) !== index) report(`“${name}” is there twice`)
  }
  if (fields.length === 0) return []
  if (query.take !== 'all' && !query.take.startsWith('first'))
    problems.push({ path: ['take'], message: '“count-by” goes with “take: all” or “take: first …”' })
  if (query.with)
    problems.push({
      path: ['with'],
      message: 'counts have no related rows',
      hint: 'name their fields in “count-by”, e.g. category.slug, category.name',
    })
  return fields
}

/** True when some row may have no value to be ordered by: none of its own, or no related row. */
export function isNullableIn({ from, named }: Pick<QueryMeaning, 'from' | 'named'>, name: string): boolean {
  const found = findField(from, name)
  // What a condition asks to be set has a value in every row that is kept.
  if (named.some((one) => SOURCE[from].conditions[one]?.fields.includes(name))) return false
  if (found?.relation !== undefined && SOURCE[from].relations[found.relation]?.nullable !== false) return true
  return found?.field.nullable === true
}
