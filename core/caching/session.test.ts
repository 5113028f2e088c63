// A request's use of the fragment store: what nested fragments pass on to those around them.
import { beforeEach, describe, expect, it } from 'vitest'
import type { RefreshMode } from '../shapes/cache-rules.ts'
import type { Change } from './change.ts'
import { NOTHING, type Dependence } from './dependence.ts'
import { FragmentSession } from './session.ts'
import { ProcessFragmentStore } from './store.ts'

const HOUR = 3_600_000
const NOW = new Date(0)

let store: ProcessFragmentStore
beforeEach(() => (store = new ProcessFragmentStore(1e6)))

const on = (row: string): Dependence => ({ ...NOTHING, rows: new Map([[row, new Set(['title'])]]) })
const renamed = (id: number): Change[] => [
  { source: 'posts', id, kind: 'changed', fields: new Set(['title']), before: {}, after: {} },
]

interface Body {
  name: string
  vary?: string[]
  own?: Dependence
  lifetime?: number
  refresh?: RefreshMode
  inner?: Body[]
}

/** Renders a fragment as the tag does: taken from the store, or rendered with its inner fragments and kept. */
function render(
  session: FragmentSession,
  { name, vary = [], own = NOTHING, lifetime = HOUR, refresh = 'both', inner = [] }: Body,
  version = 'v',
): string {
  const key = [version, name, ...vary].join(' ')
  const request = { name, key, lifetime, refresh, file: 'partials/card', line: 1 }
  const stored = session.take(request)
  if (stored !== undefined) return stored
  session.open()
  const html = `<${name}>${inner.map((one) => render(session, one, version)).join('')}`
  session.keep(request, html, own, new Map())
  return html
}
const request = (body: Body, { now = 0, dueAt = Infinity, version = 'v' } = {}) => {
  const session = new FragmentSession(store, now)
  const html = render(session, body, version)
  session.commit(dueAt)
  return { html, outcomes: session.outcomes }
}
const outcome = (body: Body, options = {}) =>
  request(body, options).outcomes.map((one) => `${one.name}: ${one.outcome}`)

describe('nested fragments', () => {
  const inner: Body = { name: 'inner', own: on('posts:1') }
  const outer: Body = { name: 'outer', own: on('posts:2'), inner: [inner] }

  it('are purged with what the inner ones depend on', () => {
    request(outer)
    expect(outcome(outer)).toEqual(['outer: hit'])
    store.purge(renamed(1), NOW)
    expect(outcome(outer)).toEqual(['inner: miss', 'outer: miss'])
  })

  it('are purged with it also when the inner one came from the store', () => {
    request(inner)
    expect(outcome(outer)).toEqual(['inner: hit', 'outer: miss'])
    store.purge(renamed(1), NOW)
    expect(outcome(outer)).toEqual(['inner: miss', 'outer: miss'])
  })

  it('live no longer than the inner ones', () => {
    request({ ...outer, inner: [{ ...inner, lifetime: 1_000 }] })
    expect(outcome(outer, { now: 999 })).toEqual(['outer: hit'])
    expect(outcome(outer, { now: 1_000 })).toEqual(['inner: miss', 'outer: miss'])
  })

  it('live no longer than what is left of inner ones from the store', () => {
    request({ ...inner, lifetime: 1_000 })
    request(outer, { now: 500 })
    expect(outcome(outer, { now: 1_000 })).toEqual(['inner: miss', 'outer: miss'])
  })

  it('pass on that they change with time', () => {
    const timed: Dependence = { ...NOTHING, timed: true }
    request({ name: 'outer', inner: [{ name: 'inner', own: timed }] }, { dueAt: 700 })
    expect(outcome({ name: 'outer' }, { now: 699 })).toEqual(['outer: hit'])
    expect(outcome({ name: 'outer' }, { now: 700 })).toEqual(['outer: miss'])
  })
})

describe('a fragment', () => {
  it('is not bound by the due time unless it changes with time', () => {
    request({ name: 'plain' }, { dueAt: 700 })
    expect(outcome({ name: 'plain' }, { now: 700 })).toEqual(['plain: hit'])
  })

  it('is stored under its whole key', () => {
    request({ name: 'f' })
    expect(outcome({ name: 'f' }, { version: 'w' })).toEqual(['f: miss'])
  })

  it('is not stored if what it depends on was purged while it was rendered', () => {
    const session = new FragmentSession(store, 0)
    render(session, { name: 'f', own: on('posts:1') })
    store.purge(renamed(1), NOW)
    session.commit(Infinity)
    expect(session.outcomes.map((one) => one.stored)).toEqual([false])
    expect(outcome({ name: 'f' })).toEqual(['f: miss'])
  })

  it('bypasses the store without one', () => {
    const session = new FragmentSession(undefined, 0)
    render(session, { name: 'f' })
    session.commit(Infinity)
    expect(session.outcomes.map((one) => one.outcome)).toEqual(['bypass'])
  })

  it('is not stored if its text is already outdated, and lives until it is', () => {
    const keep = (until: number) => {
      const session = new FragmentSession(store, 0)
      const request = {
        name: 'f',
        key: 'f',
        lifetime: HOUR,
        refresh: 'both' as const,
        file: 'partials/card',
        line: 1,
      }
      session.open()
      session.limit(until)
      session.keep(request, 'now', NOTHING, new Map())
      session.commit(Infinity)
      return session.outcomes.map((one) => one.stored)
    }
    expect(keep(0)).toEqual([false])
    expect(keep(900)).toEqual([true])
    expect([store.get('f', 899)?.content[0], store.get('f', 900)]).toEqual(['now', undefined])
  })

  it('is neither taken nor kept without a key, and neither is what contains it', () => {
    const twice = () => {
      const session = new FragmentSession(store, 0)
      const place = { lifetime: HOUR, refresh: 'both' as const, file: 'partials/card', line: 1 }
      session.open()
      session.open()
      session.keep({ name: 'in', key: undefined, ...place }, 'x', NOTHING, new Map())
      session.keep({ name: 'out', key: 'out', ...place }, '<x>', NOTHING, new Map())
      session.commit(Infinity)
      return session.outcomes.map((one) => one.outcome)
    }
    expect([twice(), twice()]).toEqual([
      ['bypass', 'bypass'],
      ['bypass', 'bypass'],
    ])
    expect([...store.entries()]).toEqual([])
  })
})

describe('an old page', () => {
  const rule = { refresh: 'both' as const, lifetime: 60, staleWhileRevalidate: 600, staleIfError: 0 }
  const answer = {
    status: 200,
    headers: {},
    tag: 't',
    modified: '',
    target: '/',
    uses: 0,
    places: [],
    formOf: null,
  }
  /** @param until when a text that it prints changes @param dueAt when the next post is due */
  const keepPage = (of: Partial<typeof rule> | { refresh: 'by-age' }, until: number, dueAt: number) => {
    const session = new FragmentSession(store, 0)
    session.open()
    session.limit(until)
    const timed = { ...NOTHING, timed: true }
    session.keepPage({ key: 'p', name: 'page', rule: { ...rule, ...of } }, ['x'], answer, timed, new Map())
    session.commit(dueAt)
    return [store.peek('p')?.expiresAt, store.peek('p')?.staleUntil]
  }
  it('is used after its lifetime, but never after a change that comes with time', () => {
    expect(keepPage({}, Infinity, Infinity)).toEqual([60, 660])
    expect(keepPage({}, 100, Infinity)).toEqual([60, 100])
    expect(keepPage({}, 30, Infinity)).toEqual([30, 30])
    expect(keepPage({}, Infinity, 200)).toEqual([60, 200])
    expect(keepPage({}, Infinity, 40)).toEqual([40, 40])
  })
  it('by age only is used whatever comes with time', () => {
    expect(keepPage({ refresh: 'by-age' }, 10, 20)).toEqual([60, 660])
    expect(store.peek('p')?.wrongAt).toBe(10)
  })
})
