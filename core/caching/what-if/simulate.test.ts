// The simulation agrees with what is known exactly, nearly, and with the real store on the same requests.
import { describe, expect, it } from 'vitest'
import { plainCopy } from '../../testing/plain-copy.ts'
import { ProcessFragmentStore } from '../store.ts'
import type { Change } from '../change.ts'
import { NOTHING } from '../dependence.ts'
import { cheHitShare, kingHitShare, lifetimeHitShare, refreshedHitShare, zipfShares } from './closed-forms.ts'
import { chooser, generator, simulate, type WhatIf } from './simulate.ts'

const PLAIN: WhatIf = {
  shares: [1],
  rate: 1,
  editsPerHour: 0,
  commentsPerHour: 0,
  refresh: 'on-change',
  lifetime: 60,
  size: 1_000,
  copyBytes: 10_000,
  renderMilliseconds: 10,
  requests: 200_000,
  seed: 11,
}

describe('closed forms', () => {
  it('King’s values for two pages, by hand: the cache of one holds the latest page', () => {
    // The chance that the latest request was for the same page: 0.7² + 0.3².
    expect(kingHitShare([0.7, 0.3], 1)).toBeCloseTo(0.58, 12)
    expect(kingHitShare([0.7, 0.3], 2)).toBeCloseTo(1, 12)
    expect(kingHitShare([1 / 3, 1 / 3, 1 / 3], 2)).toBeCloseTo(2 / 3, 12)
  })
  it('Che’s approximation is near King’s values', () => {
    for (const exponent of [0.6, 0.8, 1.1])
      for (const size of [2, 4]) {
        const shares = zipfShares(9, exponent)
        expect(Math.abs(cheHitShare(shares, size) - kingHitShare(shares, size))).toBeLessThan(0.03)
      }
  })
})

describe('the simulation', () => {
  it.each([0.6, 0.9, 1.2])('of LRU agrees with King’s exact values (Zipf %d)', (exponent) => {
    const shares = zipfShares(8, exponent)
    for (const size of [1, 3, 5])
      expect(simulate({ ...PLAIN, shares, size }).hitShare).toBeCloseTo(kingHitShare(shares, size), 2)
  })
  it('of LRU agrees with Che’s approximation for many pages', () => {
    const shares = zipfShares(2_000, 0.8)
    for (const size of [50, 200, 1_000]) {
      const { hitShare } = simulate({ ...PLAIN, shares, size })
      expect(Math.abs(hitShare - cheHitShare(shares, size))).toBeLessThan(0.015)
    }
  })
  it.each([
    [0.01, 60],
    [0.1, 60],
    [2, 10],
  ])('of a lifetime agrees with λT / (1 + λT) for λ = %d/s, T = %d s', (rate, lifetime) => {
    const { hitShare } = simulate({ ...PLAIN, rate, lifetime, refresh: 'by-age' })
    expect(hitShare).toBeCloseTo(lifetimeHitShare(rate, lifetime), 2)
  })
  it('agrees with the real store on the same requests', () => {
    const shares = zipfShares(200, 0.9)
    const bytes = 1_000
    // Copies of one size: the store holds as many as fit.
    const copy = plainCopy('x'.repeat(bytes))
    const probe = new ProcessFragmentStore(1e9)
    probe.set('p000', copy, 0)
    const size = 40
    const store = new ProcessFragmentStore(probe.bytes * size)
    const random = generator(5)
    const choose = chooser(shares, random)
    let hits = 0
    const REQUESTS = 100_000
    for (let request = 0; request < REQUESTS; request++) {
      // The simulation draws the time of each request first.
      random()
      const key = `p${String(choose()).padStart(3, '0')}`
      if (store.get(key, 0)) hits++
      else store.set(key, copy, 0)
    }
    const simulated = simulate({ ...PLAIN, shares, size, requests: REQUESTS, seed: 5 })
    expect(hits / REQUESTS).toBeCloseTo(simulated.hitShare, 4)
  })
  it('of changes agrees with λ / (λ + μ), for edits of any page and for comments where readers are', () => {
    const shares = zipfShares(50, 0.8)
    const what = { ...PLAIN, shares, rate: 2, requests: 300_000 }
    const edits = simulate({ ...what, editsPerHour: 3_600 })
    const ofEach = shares.map(() => 1 / 50)
    expect(edits.hitShare).toBeCloseTo(refreshedHitShare(2, shares, ofEach), 2)
    const comments = simulate({ ...what, commentsPerHour: 3_600 })
    // As each page has as large a share of the comments as of the requests, the shares do not matter: 2 / (2 + 1).
    expect(refreshedHitShare(2, shares, shares)).toBeCloseTo(2 / 3, 12)
    expect(comments.hitShare).toBeCloseTo(2 / 3, 2)
    const both = simulate({ ...what, editsPerHour: 3_600, commentsPerHour: 3_600 })
    const ofBoth = shares.map((one) => one + 1 / 50)
    expect(both.hitShare).toBeCloseTo(refreshedHitShare(2, shares, ofBoth), 2)
  })
  it('agrees with the real store on the same requests and comments', () => {
    const shares = zipfShares(100, 0.9)
    const what = { ...PLAIN, shares, rate: 5, commentsPerHour: 7_200, requests: 20_000, seed: 7 }
    const store = new ProcessFragmentStore(1e9)
    const random = generator(what.seed)
    const choose = chooser(shares, random)
    const wait = (rate: number) => -Math.log(1 - random()) / rate
    const commented = (page: number): Change => ({
      source: 'posts',
      id: page,
      kind: 'changed',
      fields: new Set(['commentCount']),
      before: {},
      after: {},
    })
    let now = 0
    let hits = 0
    let nextComment = wait(2)
    for (let request = 0; request < what.requests; request++) {
      now += wait(what.rate)
      for (; nextComment <= now; nextComment += wait(2)) store.purge([commented(choose())], new Date(0))
      const page = choose()
      const rows = new Map([[`posts:${page}`, new Set(['commentCount'])]])
      if (store.get(`p${page}`, 0)) hits++
      else store.set(`p${page}`, plainCopy('x', { dependence: { ...NOTHING, rows } }), store.generation)
    }
    expect(simulate(what).hitShare).toBeCloseTo(hits / what.requests, 10)
    expect(hits / what.requests).toBeLessThan(0.8)
  })
  it('shows nothing old if copies are refreshed on change, and nothing older than the lifetime by age', () => {
    const what = { ...PLAIN, shares: zipfShares(50, 0.8), rate: 5, editsPerHour: 600, requests: 100_000 }
    const onChange = simulate(what)
    expect([onChange.staleShare, onChange.staleLongest]).toEqual([0, 0])
    const byAge = simulate({ ...what, refresh: 'by-age', lifetime: 120 })
    expect(byAge.staleShare).toBeGreaterThan(0.05)
    expect(byAge.staleLongest).toBeGreaterThan(60)
    expect(byAge.staleLongest).toBeLessThanOrEqual(120)
    expect(simulate({ ...what, refresh: 'both', lifetime: 120 }).staleShare).toBe(0)
  })
  it('counts renders, their load, and memory', () => {
    const { renders, load, bytes, hitShare } = simulate({
      ...PLAIN,
      shares: zipfShares(20, 0),
      size: 10,
      rate: 50,
    })
    expect(renders).toBeCloseTo(50 * (1 - hitShare), 0)
    expect(load).toBeCloseTo(renders / 100, 5)
    expect(bytes).toBe(100_000)
  })
})
