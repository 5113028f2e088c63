// What refreshes what, as it follows from what copies depend on.
import { describe, expect, it } from 'vitest'
import { countSet, NOTHING, type Dependence } from './dependence.ts'
import { CHANGE_COLUMNS, matrixRow, type Shown } from './matrix.ts'

const NOW = new Date(0)
const rows = (key: string, ...fields: string[]): Dependence => ({
  ...NOTHING,
  rows: new Map([[key, new Set(fields)]]),
})
const shown = (dependence: Dependence, aged: Dependence = NOTHING): Shown => ({
  dependence,
  aged,
  changesWithTime: false,
})
const cells = (...copies: Shown[]) =>
  Object.entries(matrixRow(copies, NOW))
    .filter(([, cell]) => cell !== 'none')
    .map(([column, cell]) => `${column}: ${cell}`)

describe('what refreshes what', () => {
  it('is nothing for a copy that shows nothing', () => {
    expect(cells(shown(NOTHING))).toEqual([])
    expect(Object.keys(matrixRow([], NOW))).toEqual(CHANGE_COLUMNS)
  })
  it('follows from the fields of the rows that a copy shows', () => {
    expect(cells(shown(rows('posts:3', 'title')))).toEqual(['post-text: refreshed'])
    expect(cells(shown(rows('posts:3', 'slug', 'categoryId')))).toEqual([
      'post-slug: refreshed',
      'category: refreshed',
    ])
    expect(cells(shown(rows('categories:1', 'name')), shown(rows('tags:1', 'slug')))).toEqual([
      'category-name: refreshed',
    ])
  })
  it('follows from sets and counts', () => {
    const [key, set] = countSet('posts', 'commentCount', null)
    expect(cells(shown({ ...NOTHING, sets: new Map([[key, set]]) }))).toEqual(['comment: refreshed'])
  })
  it('is a gap if only age refreshes it, and a part if something else is refreshed', () => {
    const title = rows('posts:3', 'title')
    expect(cells(shown(NOTHING, title))).toEqual(['post-text: gap'])
    expect(cells(shown(title, title))).toEqual(['post-text: part'])
  })
  it('names time for what becomes due, and for a text that prints an age', () => {
    expect(cells(shown({ ...NOTHING, timed: true }))).toEqual(['time: refreshed'])
    expect(cells({ ...shown(NOTHING), changesWithTime: true })).toEqual(['time: refreshed'])
    expect(cells(shown(NOTHING, { ...NOTHING, timed: true }))).toEqual(['time: gap'])
  })
})
