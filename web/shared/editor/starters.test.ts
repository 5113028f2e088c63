// Starter texts: a new document can be saved before it is edited.
import { describe, expect, it } from 'vitest'
import { commentRules } from '../../../core/comments/rules.ts'
import { readQuery } from '../../../core/queries/read-query.ts'
import { starterOf } from './starters.ts'

describe('starterOf', () => {
  it('is a valid query', () => {
    const path = 'queries/first.yaml'
    expect(readQuery(path, starterOf(path) ?? '', commentRules())).toMatchObject({ ok: true })
  })

  it('is a comment in the language of a template, a stylesheet, a script', () => {
    expect(starterOf('templates/partials/card.liquid')).toMatch(/^<!--.*-->\n$/)
    expect(starterOf('assets/blog.css')).toMatch(/^\/\*.*\*\/\n$/)
    expect(starterOf('assets/blog.js')).toMatch(/^\/\/.*\n$/)
  })

  it('is undefined for a path that no document may have', () => {
    expect(starterOf('templates/Card.txt')).toBeUndefined()
  })
})
