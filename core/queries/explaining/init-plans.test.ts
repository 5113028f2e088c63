import { describe, expect, it } from 'vitest'
import { below, placeInitPlans, type Json } from './init-plans.ts'

const step = (name: string, more: object = {}, ...plans: Json[]): Json => ({
  'Node Type': name,
  Plans: plans,
  ...more,
})
const once = (value: number, name: string, more: object = {}, ...plans: Json[]) =>
  step(
    name,
    { 'Parent Relationship': 'InitPlan', 'Subplan Name': `InitPlan ${value} (returns $${value})`, ...more },
    ...plans,
  )
/** E.g. `a(b c(d))`. */
const shape = (node: Json): string =>
  `${String(node['Node Type'])}${below(node).length > 0 ? `(${below(node).map(shape).join(' ')})` : ''}`

describe('a subquery that runs once', () => {
  it.each([
    [
      'under the step that reads its value',
      step('top', {}, once(1, 'sub'), step('scan', { Filter: '(a > $1)' })),
      'top(scan(sub))',
    ],
    ['under the step itself', step('scan', { 'Index Cond': '(id = ANY ($1))' }, once(1, 'sub')), 'scan(sub)'],
    [
      'under the first that is run, which is the lowest',
      step('sort', { 'Sort Key': ['(x($1)) DESC'] }, once(1, 'sub'), step('scan', { Filter: '(a > $1)' })),
      'sort(scan(sub))',
    ],
    [
      'within another one, where that one reads it',
      step(
        'top',
        {},
        once(1, 'inner'),
        once(2, 'outer', { Filter: '(a > $1)' }),
        step('scan', { Filter: '(b = $2)' }),
      ),
      'top(scan(outer(inner)))',
    ],
    [
      'where it was listed, if nothing shows its value',
      step('top', {}, once(1, 'sub'), step('scan')),
      'top(scan sub)',
    ],
    [
      'not by a value that begins alike',
      step('top', {}, once(1, 'sub'), step('scan', { Filter: '(a > $12)' })),
      'top(scan sub)',
    ],
  ])('is placed %s', (_, plan, expected) => expect(shape(placeInitPlans(plan))).toBe(expected))
  it('is placed under a step that waited for it, not under one that never ran or was quick', () => {
    const took = (milliseconds: number, loops = 1) => ({
      'Actual Total Time': milliseconds,
      'Actual Loops': loops,
    })
    const plan = (first: object, second: object) =>
      step(
        'top',
        took(20),
        once(1, 'sub', took(5)),
        step('first', { Filter: '(a > $1)', ...first }),
        step('second', { Filter: '(b > $1)', ...second }),
      )
    expect(shape(placeInitPlans(plan(took(6), took(1))))).toBe('top(first(sub) second)')
    expect(shape(placeInitPlans(plan(took(9, 0), took(6))))).toBe('top(first second(sub))')
    expect(shape(placeInitPlans(plan(took(1), took(6))))).toBe('top(first second(sub))')
    expect(shape(placeInitPlans(plan(took(1), took(2))))).toBe('top(first second sub)')
  })
  it('a plan without one is not changed', () => {
    const plan = step('join', {}, step('scan', { Filter: '(a > $1)' }), step('hash', {}, step('scan')))
    expect(placeInitPlans(plan)).toEqual(plan)
  })
})
