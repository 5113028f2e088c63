/**
 * What a value depends on: rows with the fields that were fetched of them, and sets of rows whose membership, order or
 * number it shows. It is derived from query plans; nobody lists it by hand.
 */
import { keyOfRelation, type PlanReads } from '../queries/plan-reads.ts'
import { mayHold, type EvaluatedRow } from '../queries/evaluate.ts'
import { clausesOf, type QueryMeaning } from '../queries/meaning.ts'
import { plainOf, type Clause } from '../queries/clauses.ts'
import { SOURCE, type Count } from '../queries/sources.ts'
import type { SourceName } from '../shapes/schemas.ts'
import { wordOf, type Change, type RowSource } from './change.ts'

/** The result of a query: which rows it returns for which values, and their order. */
export interface ListSet {
  kind: 'list'
  name: string
  reads: PlanReads
  clauses: readonly Clause[]
  parameters: Readonly<Record<string, unknown>>
  timeZone: string
}

/** The number of rows that lead to a row, or to any row. */
export interface CountSet {
  kind: 'count'
  count: Count
  of: RowSource
  id: number | null
}

/** All rows of a source with all their fields. */
export interface AnySet {
  kind: 'any'
  source: RowSource
}

export type DependedSet = ListSet | CountSet | AnySet

export interface Dependence {
  /** `posts:31` → fields. */
  rows: ReadonlyMap<string, ReadonlySet<string>>
  /** By what identifies them. */
  sets: ReadonlyMap<string, DependedSet>
  /** Whether it can change as time passes, because a scheduled post becomes due. */
  timed: boolean
}

export const NOTHING: Dependence = { rows: new Map(), sets: new Map(), timed: false }

/** Returns e.g. `posts:31`. */
export const rowKey = (source: RowSource, id: number) => `${source}:${id}`

/** Returns a dependence that is worked out once it is looked at. Most values are part of no copy. */
export function whenAsked(work: () => Dependence): Dependence {
  let made: Dependence | undefined
  const dependence = () => (made ??= work())
  return {
    get rows() {
      return dependence().rows
    },
    get sets() {
      return dependence().sets
    },
    get timed() {
      return dependence().timed
    },
  }
}

export function joinDependences(parts: readonly Dependence[]): Dependence {
  if (parts.length === 1 && parts[0]) return parts[0]
  const rows = new Map<string, ReadonlySet<string>>()
  const sets = new Map<string, DependedSet>()
  let timed = false
  for (const part of parts) {
    for (const [key, fields] of part.rows) {
      const known = rows.get(key)
      rows.set(key, known && known !== fields ? new Set([...known, ...fields]) : fields)
    }
    for (const [key, set] of part.sets) sets.set(key, set)
    timed ||= part.timed
  }
  return { rows, sets, timed }
}

/**
 * Returns the set of rows that a query returns, with what identifies it.
 * @param state identifies the meaning: under one name, a former meaning may still have copies
 */
export function listSet({
  name,
  state,
  reads,
  meaning,
  parameters,
  timeZone,
}: Omit<ListSet, 'kind' | 'clauses'> & { state: string; meaning: QueryMeaning }): [string, ListSet] {
  const bound = boundOf(meaning, parameters)
  const set: ListSet = { kind: 'list', name, reads, clauses: clausesOf(meaning), parameters: bound, timeZone }
  return [`${name}(${boundText(bound)})#${state}`, set]
}

/** Returns the values that a query binds. */
export const boundOf = (
  meaning: QueryMeaning,
  parameters: Readonly<Record<string, unknown>>,
): Record<string, unknown> =>
  Object.fromEntries(meaning.parameters.map((one) => [one, parameters[one] ?? null]))

/** Prints bound values, e.g. `category="bicycles"`. */
export const boundText = (bound: Readonly<Record<string, unknown>>) =>
  Object.entries(bound)
    .map(([name, value]) => `${name}=${JSON.stringify(value)}`)
    .join(', ')

/** Returns the set of rows that a count counts for a row; for every row if there is no id. */
export function countSet(of: SourceName, name: string, id: number | null): [string, CountSet] {
  const count = SOURCE[of].counts[name]
  if (!count) throw new Error(`“${of}” has no count “${name}”`)
  return [
    `${count.source} of ${wordOf(of)} ${id ?? '*'}${count.within ? ' and below' : ''}`,
    { kind: 'count', count, of, id },
  ]
}

export const anySet = (source: RowSource): [string, AnySet] => [`all ${source}`, { kind: 'any', source }]

/** Decides whether a change can affect a set. @param now by the clock that decides what is published */
export function affectsSet(change: Change, set: DependedSet, now: Date): boolean {
  switch (set.kind) {
    case 'any':
      return change.source === set.source
    case 'count':
      return affectsCount(change, set, now)
    case 'list':
      return affectsList(change, set, now)
  }
}

const overlaps = (some: ReadonlySet<string>, others: ReadonlySet<string>): boolean => {
  for (const one of some) if (others.has(one)) return true
  return false
}

function affectsCount(change: Change, { count, of, id }: CountSet, now: Date): boolean {
  if (count.within && change.source === of) return change.kind !== 'changed' || change.fields.has('parentId')
  if (change.source !== count.source) return false
  const key = keyOfRelation(count.source, count.by)
  if (change.link) return change.link.relation === count.by && (id === null || change.link.row['id'] === id)
  const deciding = SOURCE[count.source].conditions[count.named]?.fields ?? []
  if (change.kind === 'changed' && !change.fields.has(key) && !deciding.some((one) => change.fields.has(one)))
    return false
  const counted = (row: EvaluatedRow | null) =>
    row !== null &&
    mayHold(count.source, { kind: 'named', name: count.named }, row, { parameters: {}, timeZone: 'UTC', now })
  if (!counted(change.before) && !counted(change.after)) return false
  if (id === null || count.within) return true
  const leadsHere = (row: EvaluatedRow | null) => {
    const value = row?.[key]
    if (row === null || value === null) return false
    if (value === undefined) return true
    return Array.isArray(value) ? value.some((one) => (one as EvaluatedRow)['id'] === id) : value === id
  }
  // The tags of a row are those that it has now: which it had before, its links tell.
  return leadsHere(change.before) || leadsHere(change.after)
}

function affectsList(change: Change, set: ListSet, now: Date): boolean {
  const { source, deciding } = set.reads
  for (const name of deciding.counts)
    if (affectsCount(change, countSet(source, name, null)[1], now)) return true
  if (change.source === source && affectsOwn(change, set, now)) return true
  for (const [relation, fields] of deciding.related)
    if (
      SOURCE[source].relations[relation]?.source === change.source &&
      affectsRelated(change, set, relation, fields, now)
    )
      return true
  return false
}

/** A row of the list's own source was changed. */
function affectsOwn(change: Change, set: ListSet, now: Date): boolean {
  const { deciding, isTree, isSearch } = set.reads
  if (change.link) return affectsLink(change.link, set, now)
  if (change.kind === 'changed' && !overlaps(change.fields, deciding.own)) return false
  // Which other rows match, or are similar enough, may depend on a row that does not match itself.
  if (isSearch || (isTree && change.source === 'categories')) return true
  return [change.before, change.after].some((row) => row !== null && mayMatch(row, set, now))
}

const mayMatch = (row: EvaluatedRow, { clauses, reads, parameters, timeZone }: ListSet, now: Date): boolean =>
  clauses.every((clause) => mayHold(reads.source, clause, row, { parameters, timeZone, now }))

/** A link decides only if the linked row has what a condition wants, or if the order or the groups read it. */
function affectsLink(link: NonNullable<Change['link']>, set: ListSet, now: Date): boolean {
  if (!set.reads.deciding.own.has(link.relation)) return false
  return mattersIn(link.relation, link.row, set, now)
}

/** Decides whether a row at the other end of a to-many relation matters: to a condition, or to the groups of a count. */
function mattersIn(
  relation: string,
  row: EvaluatedRow,
  { reads, clauses, parameters, timeZone }: ListSet,
  now: Date,
): boolean {
  if (reads.arranging.has(relation)) return true
  return [...plainOf(clauses)].some(
    (one) =>
      one.kind === 'field' &&
      one.condition.field.startsWith(`${relation}.`) &&
      mayHold(reads.source, one, { [relation]: [row] }, { parameters, timeZone, now }),
  )
}

/** A related row was changed, and so the membership or the order of the rows that lead to it. */
function affectsRelated(
  change: Change,
  set: ListSet,
  relation: string,
  fields: ReadonlySet<string>,
  now: Date,
): boolean {
  if (change.link) return false
  if (change.kind === 'changed' && !overlaps(change.fields, fields)) return false
  if (set.reads.isTree || set.reads.isSearch) return true
  const isMany = SOURCE[set.reads.source].relations[relation]?.many === true
  // Rows that lead to it cannot match if a condition on the related row itself cannot hold.
  return [change.before, change.after].some(
    (row) =>
      row !== null && (isMany ? mattersIn(relation, row, set, now) : mayMatch({ [relation]: row }, set, now)),
  )
}

/** Returns what of a dependence a change affects, e.g. `posts:31` or `latest-posts()`; undefined if nothing. */
export function affected(change: Change, dependence: Dependence, now: Date): string | undefined {
  const key = rowKey(change.source, change.id)
  const fields = dependence.rows.get(key)
  if (fields && affectsRow(change, fields)) return key
  for (const [identity, set] of dependence.sets) if (affectsSet(change, set, now)) return identity
  return undefined
}

export const affectsRow = (change: Change, fields: ReadonlySet<string>): boolean =>
  change.link
    ? fields.has(change.link.relation)
    : change.kind !== 'changed' || overlaps(change.fields, fields)
