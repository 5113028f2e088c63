/**
 * The plan of a query: its meaning with every table, column, predicate and sort key decided, independent of SQL. Printers
 * turn it into statements through TypeORM's QueryBuilder and into TypeScript source.
 */
import { searchText } from './search-text.ts'
import type { FieldCondition, SourceName } from '../shapes/schemas.ts'
import { fieldConditionsOf, parameterOf, type Clause } from './clauses.ts'
import { findField } from './fields.ts'
import { clausesOf, isNullableIn, type QueryMeaning } from './meaning.ts'
import { rankedMost } from './ranked.ts'
import { RELATED_FIELDS, SOURCE, TABLE, type FieldType } from './sources.ts'
import type { Wanted } from './wanted.ts'

/** Which rows a query may see: a reader's, or also a single unpublished row, which its author may see. */
export type Visibility = 'reader' | 'author'

/** A value to bind: written in the query, or a parameter of the request. */
export type PlanValue =
  | { kind: 'fixed'; value: unknown }
  /** `isSearch`: what a reader searches for, which is shortened. */
  | { kind: 'parameter'; name: string; isSearch?: true }

/** What a column, a sort key or a comparison reads. `owner` is the alias of a table: the source's, or a relation's name. */
export type PlanExpression =
  | { kind: 'field'; owner: string; field: string }
  | { kind: 'time-part'; owner: string; field: string; part: 'year' | 'month' | 'day' }
  | { kind: 'count'; source: SourceName; name: string }
  /** How well a row matches the search. */
  | { kind: 'relevance' }
  /** The extract of a search result. */
  | { kind: 'extract' }
  /** The number of rows of a group. */
  | { kind: 'row-count' }

export type Predicate =
  | { kind: 'named'; name: string }
  | {
      kind: 'compare'
      expression: PlanExpression
      type: FieldType
      is: FieldCondition['is']
      values: readonly PlanValue[]
    }
  /** The related row with a unique value: compared by its id, which is looked up once. */
  | { kind: 'related'; relation: string; table: string; field: string; value: PlanValue }
  /** The category with a slug, or one below it; `relation` is undefined for the source itself. */
  | { kind: 'within'; relation: string | undefined; slug: PlanValue }
  /** At least one of the related rows matches. */
  | { kind: 'some-related'; relation: string; predicate: Predicate }
  | { kind: 'search'; value: PlanValue }
  | { kind: 'all' | 'any'; predicates: readonly Predicate[] }
  | { kind: 'not'; predicate: Predicate }

/** A column of a raw row, and how it becomes a value of the row that templates see. */
export interface PlanColumn {
  /** Name of the column in the raw row. */
  key: string
  relation?: string
  field: string
  type: FieldType | 'count' | 'extract'
  expression: PlanExpression
}

export interface SortKey {
  expression: PlanExpression
  descending: boolean
  nullable: boolean
  type: FieldType
}

export interface Join {
  relation: string
  kind: 'left' | 'inner'
}

export interface QueryPlan {
  source: SourceName
  /** Alias of the source's table. */
  alias: string
  where: readonly Predicate[]
  /** To-one relations that predicates read. */
  conditionJoins: readonly Join[]
  /** Relations that the order or the grouping reads, those that `conditionJoins` has included. */
  orderReads: readonly Join[]
  /** The same without those that `conditionJoins` has. */
  orderJoins: readonly Join[]
  /** To-one relations that are fetched. */
  relations: readonly string[]
  /** To-many relations that are fetched, each with a statement of its own. */
  manyRelations: readonly string[]
  columns: readonly PlanColumn[]
  /** Expressions to group by; empty for a query that returns rows. */
  groupBy: readonly PlanExpression[]
  order: readonly SortKey[]
  take: QueryMeaning['take']
  /** What is searched, where a condition searches. */
  searched: PlanValue | undefined
  /** How many matches of a search are ranked; undefined if all are, or nothing is searched. */
  ranked: number | undefined
}

/** True if an author sees the row although it is not published. Listings are the same for authors and readers. */
export const liftsPublished = ({ take, named }: QueryMeaning, visibility: Visibility): boolean =>
  visibility === 'author' && take.kind === 'one' && named.includes('published')

/**
 * Plans a query.
 * @param wanted what to fetch; without it, everything
 */
export function planQuery(
  meaning: QueryMeaning,
  { visibility = 'reader', wanted }: { visibility?: Visibility; wanted?: Wanted | undefined } = {},
): QueryPlan {
  const { from, take, countBy } = meaning
  const isLifted = liftsPublished(meaning, visibility)
  const where = clausesOf(meaning)
    .filter((one) => !(isLifted && one.kind === 'named' && one.name === 'published'))
    .map((one) => predicateOf(from, one))
  const conditionJoins = [...new Set(where.flatMap((one) => ownersIn(one, from)))].map(leftJoin)
  const joined = new Set(conditionJoins.map((one) => one.relation))
  const order = sortKeys(meaning)
  const reading =
    countBy.length > 0 ? countBy.flatMap(relationOf) : order.flatMap((one) => ownerOf(one.expression, from))
  const orderReads = [...new Set(reading)].map((one): Join =>
    // A row counts once for each of its tags; a row without tags counts for none.
    isMany(from, one) ? { relation: one, kind: 'inner' } : leftJoin(one),
  )
  const searched = fieldConditionsOf(clausesOf(meaning)).find((one) => one.is === 'matches')
  return {
    source: from,
    alias: aliasOf(from),
    where,
    conditionJoins,
    orderReads,
    orderJoins: orderReads.filter((one) => !joined.has(one.relation)),
    relations:
      countBy.length > 0
        ? []
        : meaning.relations.filter((one) => !isMany(from, one) && isWanted(wanted, one)),
    manyRelations: meaning.relations.filter((one) => isMany(from, one) && isWanted(wanted, one)),
    columns: countBy.length > 0 ? countColumns(meaning) : rowColumns(meaning, wanted, searched !== undefined),
    groupBy: countBy.map((field) => expressionOf(from, field)),
    order,
    take,
    searched: searched && searchOf(searched.to),
    ranked: rankedMost(meaning),
  }
}

const aliasOf = (source: SourceName): string => SOURCE[source].words[0]

const leftJoin = (relation: string): Join => ({ relation, kind: 'left' })
const isMany = (source: SourceName, relation: string) => SOURCE[source].relations[relation]?.many === true
const isWanted = (wanted: Wanted | undefined, relation: string) =>
  wanted?.some((one) => one.startsWith(`${relation}.`)) ?? true
/** `category.slug` → `category`. */
const relationOf = (field: string) => (field.includes('.') ? [field.split('.')[0] ?? ''] : [])

/** Returns the text of a search. */
function searchOf(to: FieldCondition['to']): PlanValue {
  const value = valueOf(to)
  if (value.kind === 'parameter') return { ...value, isSearch: true }
  return { kind: 'fixed', value: typeof value.value === 'string' ? searchText(value.value) : value.value }
}

function valueOf(to: unknown): PlanValue {
  const name = parameterOf(to)
  return name === undefined ? { kind: 'fixed', value: to } : { kind: 'parameter', name }
}

/** Returns what a field, a field of a related row, or a count reads. */
export function expressionOf(source: SourceName, name: string): PlanExpression {
  if (name === 'relevance') return { kind: 'relevance' }
  if (Object.hasOwn(SOURCE[source].counts, name)) return { kind: 'count', source, name }
  const found = findField(source, name)
  const owner = found?.relation ?? aliasOf(source)
  const field = name.split('.')[1] ?? name
  const partOf = found?.field.partOf
  return partOf
    ? { kind: 'time-part', owner, field: partOf.time, part: partOf.part }
    : { kind: 'field', owner, field }
}

/** Returns the sort keys of a query's order. */
function sortKeys(meaning: QueryMeaning): SortKey[] {
  const { from, countBy, order } = meaning
  return order.map(({ field, descending }): SortKey => {
    if (countBy.length > 0 && field === 'count')
      return { expression: { kind: 'row-count' }, descending, nullable: true, type: 'integer' }
    const expression = expressionOf(from, field)
    const type = expression.kind === 'count' ? 'integer' : (findField(from, field)?.field.type ?? 'text')
    const nullable =
      countBy.length > 0 ||
      (expression.kind !== 'relevance' && expression.kind !== 'count' && isNullableIn(meaning, field))
    return { expression, descending, nullable, type }
  })
}

/** Returns the relation that an expression reads, if it is not the source itself. */
function ownerOf(expression: PlanExpression, source: SourceName): string[] {
  return (expression.kind === 'field' || expression.kind === 'time-part') &&
    expression.owner !== aliasOf(source)
    ? [expression.owner]
    : []
}

function ownersIn(predicate: Predicate, source: SourceName): string[] {
  switch (predicate.kind) {
    case 'compare':
      return ownerOf(predicate.expression, source)
    case 'all':
    case 'any':
      return predicate.predicates.flatMap((one) => ownersIn(one, source))
    case 'not':
      return ownersIn(predicate.predicate, source)
    default:
      return []
  }
}

/**
 * @param isRequired true if the clause must hold for a row to be returned: then unknown and false are the same
 */
function predicateOf(source: SourceName, clause: Clause, isRequired = true): Predicate {
  switch (clause.kind) {
    case 'named':
      return { kind: 'named', name: clause.name }
    case 'field':
      return fieldPredicate(source, clause.condition, isRequired)
    case 'not':
      return { kind: 'not', predicate: predicateOf(source, clause.clause, false) }
    case 'all':
    case 'any':
      return {
        kind: clause.kind,
        predicates: clause.clauses.map((one) => predicateOf(source, one, isRequired)),
      }
  }
}

function fieldPredicate(source: SourceName, condition: FieldCondition, isRequired: boolean): Predicate {
  const { field: name, is, to } = condition
  const found = findField(source, name)
  if (!found) throw new Error(`“${source}” has no field “${name}”`)
  const { field, relation, many } = found
  if (is === 'matches') return { kind: 'search', value: searchOf(to) }
  if (is === 'within') return { kind: 'within', relation, slug: valueOf(to) }
  const values = to === undefined ? [] : (Array.isArray(to) ? to : [to]).map(valueOf)
  const compare: Predicate = {
    kind: 'compare',
    expression: expressionOf(source, name),
    type: field.type,
    is,
    values,
  }
  if (relation === undefined) return compare
  if (many) return { kind: 'some-related', relation, predicate: compare }
  const [value] = values
  if (isRequired && field.unique && is === 'equal' && value) {
    const table = TABLE[SOURCE[source].relations[relation]?.source ?? 'images']
    return { kind: 'related', relation, table, field: name.split('.')[1] ?? 'id', value }
  }
  return compare
}

function rowColumns(
  { from, relations, counts, take }: QueryMeaning,
  wanted: Wanted | undefined,
  isSearched: boolean,
): PlanColumn[] {
  const alias = aliasOf(from)
  const isFetched = (path: string) => wanted?.includes(path) ?? true
  const own = Object.entries(SOURCE[from].fields).flatMap(([field, { long, type, partOf }]): PlanColumn[] =>
    !partOf && type !== 'words' && type !== 'relevance' && (!long || take.kind === 'one') && isFetched(field)
      ? [{ key: field, field, type, expression: { kind: 'field', owner: alias, field } }]
      : [],
  )
  const related = relations
    .filter((one) => !isMany(from, one))
    .flatMap((relation) => {
      const source = SOURCE[from].relations[relation]?.source ?? 'images'
      return RELATED_FIELDS[source]
        .filter((field) => isFetched(`${relation}.${field}`))
        .map((field): PlanColumn => ({
          key: `${relation}_${field}`,
          relation,
          field,
          type: relatedType(source, field),
          // The alternative text belongs to the post's use of an image, not to the image.
          expression:
            source === 'images' && field === 'text'
              ? { kind: 'field', owner: alias, field: 'imageText' }
              : { kind: 'field', owner: relation, field },
        }))
    })
  const counted = counts.filter(isFetched).map((name): PlanColumn => ({
    key: name,
    field: name,
    type: 'count',
    expression: { kind: 'count', source: from, name },
  }))
  const extract: PlanColumn = {
    key: 'found',
    field: 'found',
    type: 'extract',
    expression: { kind: 'extract' },
  }
  return [...own, ...related, ...counted, ...(isSearched && isFetched('found') ? [extract] : [])]
}

function relatedType(source: SourceName | 'images', field: string): FieldType {
  if (source !== 'images') return SOURCE[source].fields[field]?.type ?? 'text'
  return /^(id|width|height)$/.test(field) ? 'integer' : 'text'
}

function countColumns({ from, countBy }: QueryMeaning): PlanColumn[] {
  return [
    ...countBy.map((name): PlanColumn => {
      const [first = '', second] = name.split('.')
      const known = {
        key: name.replace('.', '_'),
        type: findField(from, name)?.field.type ?? ('text' as const),
        expression: expressionOf(from, name),
      }
      return second === undefined ? { ...known, field: name } : { ...known, relation: first, field: second }
    }),
    { key: 'count', field: 'count', type: 'count', expression: { kind: 'row-count' } },
  ]
}
