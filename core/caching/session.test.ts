// A request's use of the fragment store: what nested fragments pass on to those around them.
import { beforeEach, describe, expect, it } from 'vitest'
import { NOTHING, type Dependence } from './dependence.ts'
import { FragmentSession } from './session.ts'
import { ProcessFragmentStore } from './store.ts'

const HOUR = 3_600_000
const PLACE = { file: 'partials/card', line: 1 }

let store: ProcessFragmentStore
beforeEach(() => (store = new ProcessFragmentStore(1e6)))

const on = (...tags: string[]): Dependence => ({ tags: new Set(tags), timed: false })

interface Body {
  name: string
  vary?: string[]
  own?: Dependence
  lifetime?: number
  inner?: Body[]
}

/** Renders a fragment as the tag does: taken from the store, or rendered with its inner fragments and kept. */
function render(
  session: FragmentSession,
  { name, vary = [], own = NOTHING, lifetime = HOUR, inner = [] }: Body,
): string {
  const stored = session.take(name, vary, lifetime, PLACE)
  if (stored !== undefined) return stored
  session.open()
  const html = `<${name}>${inner.map((one) => render(session, one)).join('')}`
  session.keep(name, vary, lifetime, html, own, PLACE)
  return html
}
const request = (body: Body, { now = 0, dueAt = Infinity, version = 'v' } = {}) => {
  const session = new FragmentSession(store, version, now)
  const html = render(session, body)
  session.commit(dueAt)
  return { html, outcomes: session.outcomes }
}
const outcome = (body: Body, options = {}) =>
  request(body, options).outcomes.map((one) => `${one.name}: ${one.outcome}`)

describe('nested fragments', () => {
  const inner: Body = { name: 'inner', own: on('post:1') }
  const outer: Body = { name: 'outer', own: on('post:2'), inner: [inner] }

  it('are purged with what the inner ones depend on', () => {
    request(outer)
    expect(outcome(outer)).toEqual(['outer: hit'])
    store.purge(['post:1'])
    expect(outcome(outer)).toEqual(['inner: miss', 'outer: miss'])
  })

  it('are purged with it also when the inner one came from the store', () => {
    request(inner)
    expect(outcome(outer)).toEqual(['inner: hit', 'outer: miss'])
    store.purge(['post:1'])
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
    const timed: Dependence = { tags: new Set(), timed: true }
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

  it('is stored per values of vary, also when they contain the separator', () => {
    request({ name: 'f', vary: ['a b'] })
    expect(outcome({ name: 'f', vary: ['a', 'b'] })).toEqual(['f: miss'])
    expect(outcome({ name: 'f', vary: ['a%20b'] })).toEqual(['f: miss'])
    expect(outcome({ name: 'f', vary: ['a b'] })).toEqual(['f: hit'])
  })

  it('is not shared between versions of a definition', () => {
    request({ name: 'f' })
    expect(outcome({ name: 'f' }, { version: 'w' })).toEqual(['f: miss'])
  })

  it('is not stored if what it depends on was purged while it was rendered', () => {
    const session = new FragmentSession(store, 'v', 0)
    render(session, { name: 'f', own: on('post:1') })
    store.purge(['post:1'])
    session.commit(Infinity)
    expect(session.outcomes.map((one) => one.stored)).toEqual([false])
    expect(outcome({ name: 'f' })).toEqual(['f: miss'])
  })

  it('bypasses the store without one', () => {
    const session = new FragmentSession(undefined, 'v', 0)
    render(session, { name: 'f' })
    session.commit(Infinity)
    expect(session.outcomes.map((one) => one.outcome)).toEqual(['bypass'])
  })
})
