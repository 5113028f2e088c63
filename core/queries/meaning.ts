/** The meaning of a query: checked against its source, with a total order and everything it depends on. */
import type { FieldCondition, Query, SourceName } from '../shapes/schemas.ts'
import {
  fieldConditionsOf,
  givenClause,
  isOptional,
  parametersOf,
  readClause,
  type Clause,
} from './clauses.ts'
import { clauseProblems, type MeaningProblem } from './condition-problems.ts'
import { fieldsInWords, findField } from './fields.ts'
import { QUERY_PROBLEMS } from './problems.ts'
import { commentRules, type RulesInForce } from '../comments/rules.ts'
import { SOURCE } from './sources.ts'

export interface OrderKey {
  /** A field, a field of a related row, a count, or `count` for counted rows. */
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
      /** The query-string parameter that selects the page. */
      parameter: string
      /** How a numbered listing answers beyond its last page. */
      pastTheEnd: 'not-found' | 'last' | 'empty'
      /** `none`: a cursor listing without a total. */
      count: 'exact' | 'estimated' | 'none'
    }

/** A query with every default decided: what planning, descriptions and caching read. */
export interface QueryMeaning {
  from: SourceName
  /** Related rows to fetch. */
  relations: string[]
  /** Counts to fetch. */
  counts: string[]
  /** Named conditions that must hold. */
  named: string[]
  /** Conditions on fields that must hold. */
  conditions: FieldCondition[]
  /** Groups of conditions that must hold. */
  groups: Clause[]
  /** Fields to count rows by; empty for a query that returns rows. */
  countBy: string[]
  order: OrderKey[]
  /** True if the id, or the rest of `countBy`, was added to make the order total. */
  orderCompleted: boolean
  take: Take
  empty: 'not-found' | 'next-route' | 'allow'
  /** Names of the parameters it reads, without the colon. */
  parameters: string[]
  /** Those of the parameters that may be absent: only conditions with `when: given` read them. */
  optional: string[]
  /** True if at most one row can match, because it has a unique value. */
  byUnique: boolean
}

type MeaningResult = { ok: true; meaning: QueryMeaning } | { ok: false; problems: MeaningProblem[] }

/** The comment rules that decide how the comments of a post are listed. */
export type Discussion = Pick<RulesInForce, 'order' | 'pageSize'>

/** Stands in `order` for the order that the comment rules declare: threads by time, each with its replies. */
const DISCUSSION = 'discussion'

/**
 * Reads the meaning of a query, or every problem with its place.
 * @param discussion the comment rules of the blog
 */
export function readMeaning(query: Query, discussion: Discussion = commentRules()): MeaningResult {
  const problems: MeaningProblem[] = []
  const { relations, counts } = readWith(query, problems)
  const { named, conditions, groups } = readWhere(query, problems)
  const take = readTake(query, discussion, problems)
  const countBy = readCountBy(query, problems)
  const all = [...conditions, ...fieldConditionsOf(groups)]
  const { order, orderCompleted } = readOrder(query, { countBy, conditions: all, discussion }, problems)
  if (problems.length > 0) return { ok: false, problems }
  const required = new Set(all.filter((one) => !isOptional(one)).flatMap(parametersOf))
  const parameters = [...new Set(all.flatMap(parametersOf))]
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
      byUnique:
        take.kind === 'one' &&
        conditions.some(
          (one) =>
            one.is === 'equal' && !isOptional(one) && SOURCE[query.from].fields[one.field]?.unique === true,
        ),
    },
  }
}

function readWith(query: Query, problems: MeaningProblem[]): Pick<QueryMeaning, 'relations' | 'counts'> {
  const source = SOURCE[query.from]
  const relations: string[] = []
  const counts: string[] = []
  for (const [index, name] of (query.with ?? []).entries()) {
    if (name in source.relations) relations.push(name)
    else if (name in source.counts) counts.push(name)
    else {
      const known = [...Object.keys(source.relations), ...Object.keys(source.counts)]
      problems.push({
        path: ['with', index],
        ...QUERY_PROBLEMS['query-relation-unknown'](query.from, name, known),
      })
    }
  }
  return { relations, counts }
}

function readWhere(
  query: Query,
  problems: MeaningProblem[],
): Pick<QueryMeaning, 'named' | 'conditions' | 'groups'> {
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
  return { named, conditions, groups }
}

function readOrder(
  query: Query,
  {
    countBy,
    conditions,
    discussion,
  }: { countBy: readonly string[]; conditions: readonly FieldCondition[]; discussion: Discussion },
  problems: MeaningProblem[],
): Pick<QueryMeaning, 'order' | 'orderCompleted'> {
  const isSearched = conditions.some((one) => one.is === 'matches')
  const order: OrderKey[] = []
  for (const [index, text] of (query.order ?? []).entries()) {
    const descending = text.startsWith('-')
    const field = descending ? text.slice(1) : text
    if (query.from === 'comments' && text === DISCUSSION && countBy.length === 0) {
      order.push(...threads(discussion))
      continue
    }
    const problem = orderProblem(query.from, field, countBy, isSearched)
    if (problem) problems.push({ path: ['order', index], ...problem })
    else order.push({ field, descending })
  }
  const isUnique = ({ field }: OrderKey) =>
    !field.includes('.') && SOURCE[query.from].fields[field]?.unique === true
  const missing =
    countBy.length > 0
      ? countBy.filter((field) => !order.some((one) => one.field === field))
      : order.some(isUnique)
        ? []
        : ['id']
  const descending = countBy.length === 0 && (order.at(-1)?.descending ?? false)
  return {
    order: [...order, ...missing.map((field) => ({ field, descending }))],
    orderCompleted: missing.length > 0,
  }
}

/** Replies follow the comment that they reply to, oldest first, whatever the order of the threads. */
const threads = ({ order }: Discussion): OrderKey[] =>
  order === 'newest-first'
    ? [
        { field: 'startedAt', descending: true },
        { field: 'thread', descending: false },
      ]
    : [{ field: 'thread', descending: false }]

/** True if one of the conditions searches words. */
export const isSearch = (meaning: Pick<QueryMeaning, 'named' | 'conditions' | 'groups'>): boolean =>
  fieldConditionsOf(clausesOf(meaning)).some((one) => one.is === 'matches')

/** Returns all clauses of a meaning; every one of them must hold. */
export const clausesOf = ({
  named,
  conditions,
  groups,
}: Pick<QueryMeaning, 'named' | 'conditions' | 'groups'>): Clause[] => [
  ...named.map((name): Clause => ({ kind: 'named', name })),
  ...conditions.map((condition): Clause => ({ kind: 'field', condition })),
  ...groups,
]

/** Returns the meaning in force for some parameters, without skipped conditions; the same object if none is skipped. */
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
  // Without a search there is no relevance to order by.
  return isSearch(given) ? given : { ...given, order: given.order.filter((one) => one.field !== 'relevance') }
}

function readTake(query: Query, discussion: Discussion, problems: MeaningProblem[]): Take {
  const report = (path: (string | number)[], code: Parameters<typeof pagesProblem>[0]) =>
    problems.push({ path, ...pagesProblem(code) })
  if (query.take !== 'pages' && query.pages) report(['pages'], 'query-pages-unexpected')
  if (query.empty === 'next-route' && query.take !== 'one') report(['empty'], 'query-next-route-needs-one')
  if (query.take === 'one') return { kind: 'one' }
  if (query.take === 'all') return { kind: 'all' }
  if (query.take !== 'pages') return { kind: 'first', count: Number(query.take.slice('first '.length)) }
  if (query.pages?.size === undefined && !isDiscussion(query)) report(['take'], 'query-pages-missing')
  const by = query.pages?.by ?? 'number'
  if (by === 'cursor' && query.pages?.['past-the-end'] !== undefined)
    report(['pages', 'past-the-end'], 'query-cursor-has-no-end')
  return {
    kind: 'pages',
    by,
    size: query.pages?.size ?? (isDiscussion(query) ? discussion.pageSize : 10),
    parameter: query.pages?.parameter ?? 'page',
    pastTheEnd: by === 'cursor' ? 'empty' : (query.pages?.['past-the-end'] ?? 'not-found'),
    count: query.pages?.count ?? (by === 'cursor' ? 'none' : 'exact'),
  }
}

const isDiscussion = ({ from, order }: Query) => from === 'comments' && order?.includes(DISCUSSION) === true

const pagesProblem = (
  code:
    | 'query-pages-unexpected'
    | 'query-next-route-needs-one'
    | 'query-pages-missing'
    | 'query-cursor-has-no-end',
) => QUERY_PROBLEMS[code]()

function orderProblem(from: SourceName, field: string, countBy: readonly string[], isSearched: boolean) {
  if (countBy.length > 0)
    return field === 'count' || countBy.includes(field)
      ? undefined
      : QUERY_PROBLEMS['query-order-unknown'](field, ['count', ...countBy])
  if (field in SOURCE[from].counts) return undefined
  const found = findField(from, field)
  if (!found) return QUERY_PROBLEMS['query-field-unknown'](from, field, fieldsInWords(from))
  if (found.field.type === 'relevance')
    return isSearched ? undefined : QUERY_PROBLEMS['query-order-needs-search']()
  return found.many || found.field.long || found.field.type === 'words'
    ? QUERY_PROBLEMS['query-order-not-possible'](field, fieldsInWords(from))
    : undefined
}

function readCountBy(query: Query, problems: MeaningProblem[]): string[] {
  const fields = query['count-by'] ?? []
  for (const [index, name] of fields.entries()) {
    const problem = countByProblem(query.from, name, fields.indexOf(name) !== index)
    if (problem) problems.push({ path: ['count-by', index], ...problem })
  }
  if (fields.length === 0) return []
  if (query.take !== 'all' && !query.take.startsWith('first'))
    problems.push({ path: ['take'], ...QUERY_PROBLEMS['query-count-by-needs-all']() })
  if (query.with) problems.push({ path: ['with'], ...QUERY_PROBLEMS['query-count-by-has-no-relations']() })
  return fields
}

function countByProblem(from: SourceName, name: string, isRepeated: boolean) {
  const found = findField(from, name)
  if (!found) return QUERY_PROBLEMS['query-field-unknown'](from, name, fieldsInWords(from))
  const { type, long } = found.field
  if (long || ['words', 'relevance', 'time'].includes(type))
    return QUERY_PROBLEMS['query-count-by-too-many-values'](name, type === 'time')
  return isRepeated ? QUERY_PROBLEMS['query-count-by-repeated'](name) : undefined
}

/** True if a row may have no value to order by: none of its own, or no related row. */
export function isNullableIn({ from, named }: Pick<QueryMeaning, 'from' | 'named'>, name: string): boolean {
  const found = findField(from, name)
  // A field that a named condition requires has a value in every row.
  if (named.some((one) => SOURCE[from].conditions[one]?.fields.includes(name))) return false
  if (found?.relation !== undefined && SOURCE[from].relations[found.relation]?.nullable !== false) return true
  return found?.field.nullable === true
}
