// Groups by which an edge cache purges pages. That every affected page is purged is tested with random definitions.
import { describe, expect, it } from 'vitest'
import { SOURCE } from '../queries/sources.ts'
import type { SourceName } from '../shapes/schemas.ts'
import type { Change } from './change.ts'
import { affected, anySet, countSet, NOTHING, rowKey, type Dependence } from './dependence.ts'
import { groupsChanged, groupsField, groupsOf, LONGEST_GROUP, MOST_GROUPS } from './groups.ts'

const SOURCES = Object.keys(SOURCE) as SourceName[]
const changed = (source: SourceName, id: number, more: Partial<Change> = {}): Change => ({
  ...{ source, id, kind: 'changed', fields: new Set(['title']), before: {}, after: {} },
  ...more,
})
const rows = (source: SourceName, count: number): Dependence['rows'] =>
  new Map(Array.from({ length: count }, (_, index) => [rowKey(source, index + 1), new Set(['title'])]))

describe('the groups of a page', () => {
  it('fit into the limits that every cache supports, and still purge every affected page', () => {
    for (const counts of [
      [10, 5],
      [500, 5],
      [127, 127],
      [2_000, 2_000],
    ]) {
      const [posts = 0, categories = 0] = counts
      const page: Dependence = {
        ...NOTHING,
        rows: new Map([...rows('posts', posts), ...rows('categories', categories)]),
        sets: new Map(Array.from({ length: 50 }, (_, index) => countSet('posts', 'commentCount', index + 1))),
      }
      const groups = new Set(groupsOf(page))
      expect(groups.size).toBeLessThanOrEqual(MOST_GROUPS)
      for (const change of [
        changed('posts', posts),
        changed('categories', categories),
        changed('comments', 1, { kind: 'created', before: null, after: { postId: 50, state: 'shown' } }),
      ]) {
        expect(affected(change, page, new Date())).toBeDefined()
        expect(groupsChanged(change).some((one) => groups.has(one))).toBe(true)
      }
    }
  })

  it('are coarse only for the sources that have too many', () => {
    const groups = groupsOf({ ...NOTHING, rows: new Map([...rows('posts', 500), ...rows('authors', 3)]) })
    expect(groups).toEqual(['authors:1', 'authors:2', 'authors:3', 'posts'])
  })

  it('are short enough, whatever the source and the field', () => {
    const largest = 2_147_483_647
    for (const source of SOURCES) {
      const fields = new Set([
        ...Object.keys(SOURCE[source].fields),
        ...Object.keys(SOURCE[source].relations),
      ])
      const after = Object.fromEntries(
        Object.entries(SOURCE[source].relations).map(([name, { many }]) =>
          many ? [name, [{ id: largest }]] : [`${name}Id`, largest],
        ),
      )
      for (const one of groupsChanged(
        changed(source, largest, { kind: 'created', fields, before: null, after }),
      ))
        expect(one.length, one).toBeLessThanOrEqual(LONGEST_GROUP)
    }
  })
})

it('a change of a post does not purge pages that show other posts only', () => {
  const page: Dependence = { ...NOTHING, rows: rows('posts', 10) }
  const named = new Set(groupsChanged(changed('posts', 11)))
  expect(groupsOf(page).some((one) => named.has(one))).toBe(false)
  expect(groupsOf({ ...NOTHING, sets: new Map([anySet('posts')]) }).some((one) => named.has(one))).toBe(true)
})

it('a comment purges the count of its post, not of others', () => {
  const named = new Set(
    groupsChanged(
      changed('comments', 7, { kind: 'created', before: null, after: { postId: 3, state: 'shown' } }),
    ),
  )
  const count = (post: number) =>
    groupsOf({ ...NOTHING, sets: new Map([countSet('posts', 'commentCount', post)]) })
  expect(count(3).some((one) => named.has(one))).toBe(true)
  expect(count(4).some((one) => named.has(one))).toBe(false)
})

it('the field is a list of strings', () => {
  expect(groupsField(['posts+', 'posts:31'])).toBe('"posts+", "posts:31"')
})
