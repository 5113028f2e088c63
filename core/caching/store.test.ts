// The fragment store never returns an old copy after a purge, whatever the order of rendering, purging and storing.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { purgeTags } from './purge.ts'
import { ProcessFragmentStore, type Copy } from './store.ts'
import { readMeaning, type QueryMeaning } from '../queries/meaning.ts'
import type { Query } from '../shapes/schemas.ts'

const copy = (html: string, tags: string[], expiresAt = Infinity): Copy => ({
  name: 'f',
  html,
  tags: new Set(tags),
  madeAt: 0,
  expiresAt,
})

describe('ProcessFragmentStore', () => {
  it('returns a copy until it expires', () => {
    const store = new ProcessFragmentStore(1e6)
    store.set('k', copy('x', [], 100), store.generation)
    expect(store.get('k', 99)?.html).toBe('x')
    expect(store.get('k', 100)).toBeUndefined()
  })

  it('purges only copies that depend on the tag', () => {
    const store = new ProcessFragmentStore(1e6)
    store.set('a', copy('a', ['post:1', 'source:posts']), 0)
    store.set('b', copy('b', ['post:2']), 0)
    expect(store.purge(['post:1'])).toEqual(['a'])
    expect([store.get('a', 0)?.html, store.get('b', 0)?.html]).toEqual([undefined, 'b'])
  })

  it('does not store a copy whose data was read before a purge', () => {
    const store = new ProcessFragmentStore(1e6)
    const begun = store.generation
    store.purge(['post:1'])
    expect(store.set('a', copy('old', ['post:1']), begun)).toBe(false)
    expect(store.set('b', copy('other', ['post:2']), begun)).toBe(true)
    expect(store.set('a', copy('new', ['post:1']), store.generation)).toBe(true)
    store.clear()
    expect(store.set('c', copy('old', []), begun)).toBe(false)
  })

  it('stays within its size and evicts the least recently used copies', () => {
    const store = new ProcessFragmentStore(4_000)
    for (let index = 0; index < 20; index++) {
      store.set(`k${index}`, copy('x'.repeat(400), [`post:${index}`]), store.generation)
      store.get('k0', 0)
    }
    expect(store.bytes).toBeLessThanOrEqual(4_000)
    expect(store.get('k0', 0)).toBeDefined()
    expect(store.get('k5', 0)).toBeUndefined()
  })

  it('never returns an old value after random renders, writes and stores', () => {
    type Step = { kind: 'begin' | 'finish' | 'write'; row: number }
    const step = fc.record({
      kind: fc.constantFrom<Step['kind']>('begin', 'finish', 'write'),
      row: fc.integer({ min: 0, max: 2 }),
    })
    fc.assert(
      fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
        const store = new ProcessFragmentStore(1e6)
        const rows = [0, 0, 0]
        const running: { row: number; value: number; begun: number }[] = []
        for (const { kind, row } of steps) {
          if (kind === 'begin') running.push({ row, value: rows[row] ?? 0, begun: store.generation })
          else if (kind === 'write') {
            rows[row] = (rows[row] ?? 0) + 1
            store.purge([`post:${row}`])
          } else {
            const done = running.shift()
            if (done)
              store.set(`card ${done.row}`, copy(String(done.value), [`post:${done.row}`]), done.begun)
          }
          for (const [index, value] of rows.entries()) {
            const kept = store.get(`card ${index}`, 0)
            if (kept) expect(kept.html).toBe(String(value))
          }
        }
      }),
    )
  })
})

describe('purgeTags', () => {
  const meaning = (query: Query): QueryMeaning => {
    const result = readMeaning(query)
    if (!result.ok) throw new Error(JSON.stringify(result.problems))
    return result.meaning
  }
  const queries = [
    meaning({ from: 'posts', where: ['published'], order: ['-publishedAt'], take: 'all' }),
    meaning({
      from: 'comments',
      where: ['shown', { field: 'post.slug', is: 'equal', to: ':slug' }],
      take: 'all',
    }),
  ]
  const post = { title: 'A', slug: 'a', publishedAt: '2026-01-01', categoryId: 1, wordCount: 10 }
  const tags = (after: object) =>
    purgeTags({ source: 'posts', id: 7, before: post, after: { ...post, ...after } }, queries).map(
      (one) => one.tag,
    )

  it.each([
    ['a title', { title: 'B' }, ['post:7']],
    ['a date of publication', { publishedAt: null }, ['post:7', 'source:posts']],
    ['a category', { categoryId: 2 }, ['post:7', 'source:posts']],
    ['a slug that a query compares', { slug: 'b' }, ['post:7', 'source:posts']],
    ['nothing', {}, ['post:7']],
  ])('returns the tags for a change of %s', (_, after, expected) => {
    expect(tags(after)).toEqual(expected)
  })
  it('returns the listings and the counts of comments for a new comment', () => {
    const change = {
      source: 'comments',
      id: 3,
      before: null,
      after: { state: 'shown' },
      counted: [{ source: 'posts', id: 7 }],
    } as const
    expect(purgeTags(change, queries).map((one) => one.tag)).toEqual([
      'comment:3',
      'source:comments',
      'post:7/comments',
    ])
  })
})
