// Moves in a tree: every place that a drop or a key gives is one that the tree can have.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { dropped, LEVEL, stepped, subtree, type Branch, type Place, type Step } from './tree-moves.ts'

const row = (id: string, depth = 0, parent: string | null = null): Branch => ({ id, depth, parent })
//  a            d      e
//  ├ b          └      └ f
//  └ c
const TREE = [row('a'), row('b', 1, 'a'), row('c', 1, 'a'), row('d'), row('e'), row('f', 1, 'e')]

describe('a drop', () => {
  it.each<[string, string, number, Place | undefined]>([
    // Between a row and what is below it, there is only one level.
    ['d', 'e', 0, { parent: 'e', before: 'f' }],
    ['d', 'f', LEVEL, { parent: 'e', before: null }],
    ['d', 'a', 0, { parent: null, before: 'a' }],
    ['d', 'd', LEVEL, { parent: 'a', before: null }],
    ['d', 'd', 0, undefined],
    ['c', 'c', -LEVEL, { parent: null, before: 'd' }],
    ['f', 'b', 0, { parent: 'a', before: 'b' }],
    ['a', 'b', 0, undefined],
    ['a', 'd', 0, { parent: null, before: 'e' }],
    ['b', 'd', 0, { parent: 'd', before: null }],
    ['b', 'd', -LEVEL, { parent: null, before: 'e' }],
    ['x', 'a', 0, undefined],
  ])('of %s on %s, %i px sideways', (id, over, sideways, place) => {
    expect(dropped(TREE, id, over, sideways)).toEqual(place)
  })
})

describe('a key', () => {
  it.each<[string, Step, Place | undefined]>([
    ['d', 'up', { parent: null, before: 'a' }],
    ['a', 'up', undefined],
    ['a', 'down', { parent: null, before: 'e' }],
    ['d', 'down', { parent: null, before: null }],
    ['e', 'down', undefined],
    ['d', 'in', { parent: 'a', before: null }],
    ['a', 'in', undefined],
    ['c', 'out', { parent: null, before: 'd' }],
    ['d', 'out', undefined],
  ])('%s %s', (id, step, place) => expect(stepped(TREE, id, step)).toEqual(place))
})

/** What the server does with a place: the row goes below its parent, before its neighbour, with all below it. */
function applied(rows: readonly Branch[], id: string, { parent, before }: Place): Branch[] {
  const own = subtree(rows, id)
  const rest = rows.filter((one) => !own.includes(one))
  const depth = parent === null ? 0 : (rest.find((one) => one.id === parent)?.depth ?? 0) + 1
  const shift = depth - (own[0]?.depth ?? 0)
  const moved = own.map((one) => ({
    ...one,
    depth: one.depth + shift,
    parent: one.id === id ? parent : one.parent,
  }))
  const last =
    parent === null
      ? rest.length
      : rest.indexOf(rest.find((one) => one.id === parent) as Branch) + subtree(rest, parent).length
  const at = before === null ? last : rest.findIndex((one) => one.id === before)
  return [...rest.slice(0, at), ...moved, ...rest.slice(at)]
}

const tree = fc.array(fc.integer({ min: 0, max: 3 }), { minLength: 1, maxLength: 9 }).map((depths) => {
  const rows: Branch[] = []
  for (const [index, wanted] of depths.entries()) {
    const depth = Math.min(wanted, (rows.at(-1)?.depth ?? -1) + 1)
    const parent = depth === 0 ? null : (rows.findLast((one) => one.depth === depth - 1)?.id ?? null)
    rows.push(row(String(index), depth, parent))
  }
  return rows
})

/** Each row comes after its parent, one level deeper, and nothing is lost. */
function expectTree(rows: readonly Branch[], count: number) {
  expect(new Set(rows.map((one) => one.id)).size).toBe(count)
  for (const [index, one] of rows.entries()) {
    const parent = rows.slice(0, index).findLast((other) => other.depth === one.depth - 1)
    expect(one.parent).toBe(one.depth === 0 ? null : parent?.id)
  }
}

it('whatever is moved wherever, a tree is left (5,000 random moves)', () => {
  const step = fc.constantFrom<Step>('up', 'down', 'in', 'out')
  fc.assert(
    fc.property(
      tree,
      fc.nat(),
      fc.nat(),
      fc.integer({ min: -90, max: 90 }),
      step,
      (rows, one, two, sideways, key) => {
        const id = String(one % rows.length)
        const drop = dropped(rows, id, String(two % rows.length), sideways)
        if (drop) expectTree(applied(rows, id, drop), rows.length)
        const place = stepped(rows, id, key)
        if (place) expectTree(applied(rows, id, place), rows.length)
      },
    ),
    { numRuns: 5_000 },
  )
})
it('in and then out again, or up and then down, is where it was', () => {
  fc.assert(
    fc.property(tree, fc.nat(), (rows, one) => {
      const id = String(one % rows.length)
      const up = stepped(rows, id, 'up')
      if (!up) return
      const after = applied(rows, id, up)
      const back = stepped(after, id, 'down')
      expect(back && applied(after, id, back)).toEqual(rows)
    }),
  )
})
