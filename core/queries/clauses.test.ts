// Conditions that are skipped when their parameter is absent.
import { describe, expect, it } from 'vitest'
import type { Condition } from '../shapes/schemas.ts'
import { givenClause, readClause } from './clauses.ts'

const inForce = (condition: Condition, parameters: Record<string, unknown>) =>
  givenClause(readClause(condition), parameters)

const optional = (to: string | string[]): Condition => ({
  field: 'title',
  is: Array.isArray(to) ? 'in' : 'equal',
  to,
  when: 'given',
})

describe('when: given', () => {
  it.each([[{}], [{ q: undefined }], [{ q: null }], [{ q: '' }], [{ other: 'x' }]])(
    'skips a condition for %j',
    (parameters) => {
      expect(inForce(optional(':q'), parameters)).toBeUndefined()
    },
  )
  it.each([[{ q: 'x' }], [{ q: 0 }], [{ q: false }]])('keeps a condition for %j', (parameters) => {
    expect(inForce(optional(':q'), parameters)).toBeDefined()
  })
  it('is not misled by the names of inherited properties', () => {
    expect(inForce(optional(':toString'), {})).toBeUndefined()
  })
  it('skips a list as soon as one of its parameters is absent', () => {
    const list = optional([':a', ':b', 'fixed'])
    expect(inForce(list, { a: 'x' })).toBeUndefined()
    expect(inForce(list, { b: 'x' })).toBeUndefined()
    expect(inForce(list, { a: 'x', b: 'y' })).toBeDefined()
    expect(inForce(optional(['fixed']), {})).toBeDefined()
  })
  it('skips groups and negations in which no condition is left', () => {
    expect(inForce({ any: [optional(':a'), { not: optional(':b') }] }, {})).toBeUndefined()
    expect(inForce({ all: [optional(':a'), optional(':b')] }, { b: 'x' })).toMatchObject({
      kind: 'all',
      clauses: [{ kind: 'field' }],
    })
    expect(inForce({ not: { any: [optional(':a')] } }, {})).toBeUndefined()
  })
  it('never skips conditions without it', () => {
    expect(inForce({ field: 'title', is: 'equal', to: ':q' }, {})).toBeDefined()
  })
})
