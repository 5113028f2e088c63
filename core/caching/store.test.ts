// The fragment store never returns an old copy after a purge, whatever the order of rendering, purging and storing.
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Change } from './change.ts'
import { NOTHING, type Dependence } from './dependence.ts'
import { plainCopy } from '../testing/plain-copy.ts'
import { ProcessFragmentStore, type Copy } from './store.ts'

const NOW = new Date(0)
/** A copy that shows the titles of posts. */
const copy = (html: string, posts: number[], expiresAt = Infinity): Copy =>
  plainCopy(html, {
    dependence: { ...NOTHING, rows: new Map(posts.map((id) => [`posts:${id}`, new Set(['title'])])) },
    parts: new Map([['template partials/card', 'v1']]),
    agesAt: expiresAt,
    expiresAt,
    staleUntil: expiresAt,
  })
const change = (id: number, field = 'title'): Change[] => [
  { source: 'posts', id, kind: 'changed', fields: new Set([field]), before: {}, after: {} },
]

describe('ProcessFragmentStore', () => {
  it('returns a copy until it expires', () => {
    const store = new ProcessFragmentStore(1e6)
    store.set('k', copy('x', [], 100), store.generation)
    expect(store.get('k', 99)?.content[0]).toBe('x')
    expect(store.get('k', 100)).toBeUndefined()
  })

  it('purges only copies that show what has changed, and tells why', () => {
    const store = new ProcessFragmentStore(1e6)
    store.set('a', copy('a', [1, 3]), 0)
    store.set('b', copy('b', [2]), 0)
    expect(store.purge(change(1, 'wordCount'), NOW)).toEqual([])
    expect(store.purge(change(1), NOW)).toEqual([{ key: 'a', name: 'f', why: 'post 1: title changed' }])
    expect([store.get('a', 0)?.content[0], store.get('b', 0)?.content[0]]).toEqual([undefined, 'b'])
  })

  it('drops everything if comparing each change would hold up readers', () => {
    const store = new ProcessFragmentStore(1e8)
    for (let id = 0; id < 1_000; id++) {
      const sets: Dependence['sets'] = new Map([[`set ${id}`, { kind: 'any', source: 'pages' }]])
      store.set(`k${id}`, { ...copy('x', []), dependence: { ...NOTHING, sets } }, 0)
    }
    const begun = store.generation
    const changes = Array.from({ length: 5_000 }, (_, id) => change(90_000 + id)).flat()
    const dropped = store.purge(changes, NOW)
    expect([dropped.length, dropped[0]?.why]).toEqual([1_000, '5,000 rows changed at once'])
    expect([...store.entries()]).toEqual([])
    expect(store.set('k1', copy('x', [1]), begun)).toBe(false)
  })

  it('does not store a copy whose data was read before a purge', () => {
    const store = new ProcessFragmentStore(1e6)
    const begun = store.generation
    store.purge(change(1), NOW)
    expect(store.set('a', copy('old', [1]), begun)).toBe(false)
    expect(store.set('b', copy('other', [2]), begun)).toBe(true)
    expect(store.set('a', copy('new', [1]), store.generation)).toBe(true)
    store.clear('test')
    expect(store.set('c', copy('old', []), begun)).toBe(false)
  })

  it('stays within its size and evicts the least recently used copies', () => {
    const store = new ProcessFragmentStore(4_000)
    for (let index = 0; index < 20; index++) {
      store.set(`k${index}`, copy('x'.repeat(400), [index]), store.generation)
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
            store.purge(change(row), NOW)
          } else {
            const done = running.shift()
            if (done) store.set(`card ${done.row}`, copy(String(done.value), [done.row]), done.begun)
          }
          for (const [index, value] of rows.entries()) {
            const kept = store.get(`card ${index}`, 0)
            if (kept) expect(kept.content[0]).toBe(String(value))
          }
        }
      }),
    )
  })

  it('drops the copies of changed parts of the definition only', () => {
    const store = new ProcessFragmentStore(1e6)
    store.set('a', copy('a', []), 0)
    store.set('b', { ...copy('b', []), parts: new Map([['query latest', 'q1']]) }, 0)
    expect(store.keepOnly((part, state) => part !== 'query latest' || state !== 'q1')).toEqual([
      { key: 'b', name: 'f', why: 'query latest changed' },
    ])
    expect([store.get('a', 0)?.content[0], store.get('b', 0)]).toEqual(['a', undefined])
  })

  it('stores nothing that was begun before the changes that it remembers', () => {
    const store = new ProcessFragmentStore(1e6)
    const begun = store.generation
    for (let id = 0; id < 2_001; id++) store.purge(change(9_000 + id), NOW)
    expect(store.set('a', copy('a', [1]), begun)).toBe(false)
    expect(store.set('a', copy('a', [1]), store.generation)).toBe(true)
  })
})
