/**
 * Groups by which an edge cache purges pages (surrogate keys; cache groups in RFC 9875). The groups of a page are derived
 * from its dependence; a change purges the groups of pages that it can affect. Every affected page is in one of them. Groups
 * are coarser than dependences, so pages that are not affected can be purged, too.
 *
 * | group | pages in it | purged when |
 * | --- | --- | --- |
 * | `posts:31` | show post 31 | post 31 changes |
 * | `posts.title` | list posts, filtered or sorted by title | the title of a post changes |
 * | `posts+` | list posts | a post is created or deleted |
 * | `comments@post:31` | show the number of comments on post 31 | a comment on post 31 changes |
 * | `comments` | depend on any comment | any comment changes |
 */
import { keyOfRelation, type FieldsRead } from '../queries/plan-reads.ts'
import type { EvaluatedRow } from '../queries/evaluate.ts'
import { SOURCE } from '../queries/sources.ts'
import type { Change, RowSource } from './change.ts'
import { rowKey, type CountSet, type DependedSet, type Dependence, type ListSet } from './dependence.ts'

/** The limits that every cache supports (RFC 9875, from memory): groups per response, and characters per group. */
export const MOST_GROUPS = 128
export const LONGEST_GROUP = 32

/** Returns the groups of a page. If there are too many, the most frequent source is replaced by a single group. */
export function groupsOf({ rows, sets }: Dependence): string[] {
  const groups = new Set<string>(rows.keys())
  for (const set of sets.values()) for (const one of groupsOfSet(set)) groups.add(one)
  return [...coarser(groups)].sort()
}

function* groupsOfSet(set: DependedSet): Generator<string> {
  if (set.kind === 'any') yield set.source
  else if (set.kind === 'count') yield* groupsOfCount(set)
  else yield* groupsOfList(set)
}

function* groupsOfCount({ count, of, id }: CountSet): Generator<string> {
  if (count.within) {
    yield* [count.source, of]
  } else if (id === null) yield count.source
  else yield* [`${count.source}@${count.by}:${id}`, `${count.source}@${count.by}:?`]
}

function* groupsOfList({ reads: { source, deciding } }: ListSet): Generator<string> {
  yield* groupsOfFields(source, deciding)
  for (const [relation, fields] of deciding.related) {
    const target = SOURCE[source].relations[relation]?.source
    if (!target) continue
    yield `${target}+`
    for (const field of fields) yield `${target}.${field}`
  }
}

function* groupsOfFields(source: ListSet['reads']['source'], { own, counts }: FieldsRead): Generator<string> {
  yield `${source}+`
  for (const field of own) yield `${source}.${field}`
  for (const name of counts) {
    const count = SOURCE[source].counts[name]
    if (count) yield* groupsOfCount({ kind: 'count', count, of: source, id: null })
  }
}

/** Returns the source of a group. */
export const sourceOf = (group: string): string => /^[a-z]+/.exec(group)?.[0] ?? group

/** Replaces all groups of a source by one, beginning with the source that has most of them, until they fit. */
function coarser(groups: Set<string>): Set<string> {
  if (groups.size <= MOST_GROUPS) return groups
  const bySource = new Map<string, string[]>()
  for (const group of groups) {
    const source = sourceOf(group)
    bySource.set(source, [...(bySource.get(source) ?? []), group])
  }
  const [source, members] = [...bySource].reduce((one, other) =>
    other[1].length > one[1].length ? other : one,
  )
  return coarser(new Set([...groups].filter((one) => !members.includes(one)).concat(source)))
}

/** Returns the groups that a change purges. */
export function groupsChanged({ source, id, kind, fields, before, after, link }: Change): string[] {
  const groups = new Set<string>([source, rowKey(source, id)])
  if (kind !== 'changed') groups.add(`${source}+`)
  for (const field of fields) groups.add(`${source}.${field}`)
  if (link) {
    groups.add(`${source}.${link.relation}`)
    groups.add(`${source}@${link.relation}:${idOf(link.row)}`)
  }
  for (const row of [before, after]) if (row) for (const one of groupsOfTargets(source, row)) groups.add(one)
  return [...groups]
}

/** Yields the groups of rows that count a changed row. */
function* groupsOfTargets(source: RowSource, row: EvaluatedRow): Generator<string> {
  if (source === 'images') return
  for (const relation of Object.keys(SOURCE[source].relations)) {
    const value = row[keyOfRelation(source, relation)]
    const targets = Array.isArray(value) ? value.map((one) => idOf(one as EvaluatedRow)) : [value]
    for (const target of targets)
      if (target !== null) yield `${source}@${relation}:${typeof target === 'number' ? target : '?'}`
  }
}

const idOf = (row: EvaluatedRow): number | '?' => (typeof row['id'] === 'number' ? row['id'] : '?')

/** Prints groups as the `Cache-Groups` field (RFC 9875), a list of strings (RFC 9651 §3.1). */
export const groupsField = (groups: readonly string[]): string => groups.map((one) => `"${one}"`).join(', ')
