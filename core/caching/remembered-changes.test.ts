// Decides from remembered changes whether copies of other processes are still fresh.
import { describe, expect, it } from 'vitest'
import type { Change } from './change.ts'
import { anySet, NOTHING, type Dependence } from './dependence.ts'
import { RememberedChanges } from './remembered-changes.ts'

const NOW = { isAnything: false, now: new Date(0) }
const change = (id: number, fields: string[] = ['title']): Change => ({
  source: 'posts',
  id,
  kind: 'changed',
  fields: new Set(fields),
  before: {},
  after: {},
})
/** A page that shows the title of a post. */
const page = (id: number): Dependence => ({
  ...NOTHING,
  rows: new Map([[`posts:${id}`, new Set(['title'])]]),
})

describe('a copy', () => {
  it('is fresh if no change that it may lack affects it', () => {
    const changes = new RememberedChanges()
    changes.seen('10:10:')
    changes.add(['11'], [change(1)], NOW)
    changes.seen('12:12:')
    expect(changes.isStillRight(page(1), '11:11:')).toBe(false)
    expect(changes.isStillRight(page(2), '11:11:')).toBe(true)
    expect(changes.isStillRight(page(1), '12:12:')).toBe(true)
    // The transaction was running when rendering began.
    expect(changes.isStillRight(page(1), '11:13:11')).toBe(false)
    expect(changes.isStillRight(page(1), 'no snapshot')).toBe(false)
  })

  it('from before the process followed the log is not fresh', () => {
    const changes = new RememberedChanges()
    expect(changes.isStillRight(page(1), '10:10:')).toBe(false)
    changes.seen('10:10:')
    expect(changes.isStillRight(page(1), '9:9:')).toBe(false)
    expect(changes.isStillRight(page(1), '10:10:')).toBe(true)
    changes.forget()
    expect(changes.isStillRight(page(1), '10:10:')).toBe(false)
    changes.seen('20:20:')
    expect(changes.isStillRight(page(1), '19:19:')).toBe(false)
  })

  it('from before the process followed the log is fresh if its sources have not changed since', () => {
    const changes = new RememberedChanges()
    changes.seen('20:20:')
    changes.addEarlier('10', [
      { transaction: '12', source: 'posts' },
      { transaction: '15', source: 'comments' },
    ])
    expect(changes.isStillRight(page(1), '11:11:')).toBe(false)
    expect(changes.isStillRight(page(1), '13:13:')).toBe(true)
    const comments: Dependence = { ...NOTHING, sets: new Map([anySet('comments')]) }
    expect(changes.isStillRight(comments, '13:13:')).toBe(false)
    expect(changes.isStillRight(comments, '16:16:')).toBe(true)
    expect(changes.isStillRight(page(1), '9:9:')).toBe(false)
    // An older transaction was still running.
    expect(changes.isStillRight(page(1), '8:17:8')).toBe(false)
  })

  it('is not fresh after a change of unknown extent', () => {
    const changes = new RememberedChanges()
    changes.seen('10:10:')
    changes.add(['10'], [], { ...NOW, isAnything: true })
    changes.seen('11:11:')
    expect(changes.isStillRight(NOTHING, '10:10:')).toBe(false)
    expect(changes.isStillRight(NOTHING, '11:11:')).toBe(true)
  })

  it('is not fresh once changes that it may lack are forgotten', () => {
    const changes = new RememberedChanges()
    changes.seen('1:1:')
    for (let id = 1; id <= 3_000; id++) {
      changes.add([String(id)], [change(id)], NOW)
      changes.seen(`${id + 1}:${id + 1}:`)
    }
    expect(changes.isStillRight(page(9_999), '2:2:')).toBe(false)
    expect(changes.isStillRight(page(9_999), '2990:2990:')).toBe(true)
    expect(changes.isStillRight(page(2_995), '2990:2990:')).toBe(false)
    expect(changes.isStillRight(page(2_980), '2990:2990:')).toBe(true)
  })
})
