import { filters, tags } from 'liquidjs'
import { describe, expect, it } from 'vitest'
import { WHOLE_LIST } from '../../content/html/allow-list.ts'
import { ownFilters } from '../program/filters.ts'
import { completeTemplate } from './complete.ts'
import { FILTERS, TAGS } from './reference.ts'

describe('the reference', () => {
  it('has every filter', () => {
    const all = new Set([...Object.keys(filters), ...ownFilters('UTC', WHOLE_LIST, {}).keys()])
    expect(Object.keys(FILTERS).sort()).toEqual([...all].sort())
  })

  it('has every tag', () => {
    const all = new Set([...Object.keys(tags), 'fragment'])
    all.delete('include')
    expect(Object.keys(TAGS).sort()).toEqual([...all].sort())
  })
})

describe('completeTemplate', () => {
  /** Completes at “^”. */
  const at = (marked: string) => completeTemplate(marked.replace('^', ''), marked.indexOf('^'))
  const values = (marked: string) => at(marked)?.choices.map((one) => one.value) ?? []

  it.each([
    '{{ post.title | ^',
    '{{ post.title | up^ }}',
    '{{ "a | b" | ^',
    '{% assign x = y | ^',
    '{{ a | plus: 1 | ^',
  ])('%s: filters', (marked) => {
    expect(values(marked)).toEqual(Object.keys(FILTERS))
  })

  it.each(['{% ^', '{%- re^', 'text {{ a }} {%^'])('%s: tags', (marked) => {
    expect(values(marked)).toEqual(Object.keys(TAGS))
  })

  it('begins with the tags that end what is open', () => {
    expect(values('{% if a %}{% for b in c %}{% if d %}{% endif %}{% ^').slice(0, 3)).toEqual([
      'endfor',
      'endif',
      'if',
    ])
  })

  it.each(['^', 'a | ^', '{{ a }} | ^', '{{ a^', '{{ "x | ^', '{% render ^'])('%s: nothing', (marked) => {
    expect(at(marked)).toBe(undefined)
  })

  it('replaces the word that is started', () => {
    expect(at('{{ a | exc^erpt }}')?.from).toBe(7)
  })
})
