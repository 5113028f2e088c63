// Numbered pages. The facts are common practice and have no published source.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { numberedPage, pageCount, pageText, pageWindow, readPage, withQuery } from './numbered.ts'

const rows = (from: number, to: number) =>
  Array.from({ length: Math.max(0, to - from + 1) }, (_, index) => from + index)
const slice = (total: number, size: number, page: number) =>
  numberedPage(
    rows((page - 1) * size + 1, Math.min(page * size, total)),
    { total, isEstimated: false },
    size,
    page,
    (number) => withQuery('/posts', new URLSearchParams(), { page: pageText(number) }),
  )

describe('facts (common practice)', () => {
  it('shows posts 7 to 12 on page 2 with 6 per page', () => {
    expect(slice(41, 6, 2)).toMatchObject({ from: 7, to: 12, total: 41, pageCount: 7 })
  })
  it('has 3 pages for 5 posts with 2 per page, and shows 1 on the last', () => {
    expect(slice(5, 2, 3)).toMatchObject({ pageCount: 3, from: 5, to: 5, next: null })
  })
  it('has no pages and an empty range for no posts', () => {
    expect(slice(0, 6, 1)).toMatchObject({
      pageCount: 0,
      from: 0,
      to: 0,
      previous: null,
      next: null,
      pages: [],
    })
  })
  it.each([
    [undefined, 1],
    ['', 1],
    ['abc', 1],
    ['-1', 1],
    ['0', 1],
    ['1.5', 1],
    ['2', 2],
    ['007', 7],
    ['1e9', 1],
    ['9'.repeat(10_000), 1_000_000_000],
  ])('?page=%s is page %i', (value, page) => {
    expect(readPage(value)).toBe(page)
  })
  it('omits the page parameter on page 1, so that no page has two addresses', () => {
    expect(slice(41, 6, 2).previous).toEqual({ number: 1, url: '/posts', current: false })
    expect(slice(41, 6, 2).next?.url).toBe('/posts?page=3')
  })
  it('keeps other parameters in links', () => {
    expect(withQuery('/posts', new URLSearchParams('tag=wheels&page=2&q=a+b'), { page: '3' })).toBe(
      '/posts?tag=wheels&page=3&q=a+b',
    )
    expect(withQuery('/posts', new URLSearchParams('tag=wheels&page=2'), { page: null })).toBe(
      '/posts?tag=wheels',
    )
  })
})

describe('pageWindow', () => {
  it.each([
    [1, 1, '1'],
    [1, 3, '1 2 3'],
    [2, 7, '1 2 3 … 7'],
    [4, 7, '1 2 3 4 5 6 7'],
    [5, 9, '1 … 4 5 6 … 9'],
    [9, 9, '1 … 8 9'],
  ])('page %i of %i: %s', (page, count, text) => {
    expect(
      pageWindow(page, count)
        .map((one) => one ?? '…')
        .join(' '),
    ).toBe(text)
  })

  it('ascends, includes the first, current and last page, and has gaps of at least two pages', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), fc.integer({ min: 1, max: 500 }), (a, b) => {
        const [page, count] = [Math.min(a, b), Math.max(a, b)]
        const entries = pageWindow(page, count)
        const numbers = entries.filter((one) => one !== null)
        expect(numbers).toEqual(expect.arrayContaining([1, page, count]))
        expect([...numbers].sort((x, y) => x - y)).toEqual(numbers)
        for (const [index, entry] of entries.entries()) {
          if (entry === null) expect((entries[index + 1] ?? 0) - (entries[index - 1] ?? 0)).toBeGreaterThan(2)
        }
      }),
    )
  })

  it('shows every row once, in order, across all pages', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 200 }), fc.integer({ min: 1, max: 30 }), (total, size) => {
        const all = Array.from({ length: pageCount(total, size) }, (_, index) =>
          slice(total, size, index + 1),
        )
        expect(all.flatMap((one) => one.items)).toEqual(rows(1, total))
        for (const one of all) expect(one.to - one.from + 1).toBe(one.items.length)
      }),
    )
  })
})
