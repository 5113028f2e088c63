// The generated documents in docs/ are current, and the reference has everything that queries and templates know.
import { basename } from 'node:path'
import { describe, expect, it } from 'vitest'
import { reference } from '../core/blog/reference.ts'
import { SHARED_NAMES } from '../core/templates/shared-names.ts'
import { sharedTypes } from '../core/blog/data-types.ts'
import { generated, textOf } from './generated-docs.ts'

describe('generated documents', () => {
  it.each([...generated()])('%s is current (run `npm run docs`)', (path, text) => {
    expect(textOf(path), basename(path)).toBe(text)
  })
})

describe('the reference', () => {
  it('explains every value that templates share', () => {
    expect([...sharedTypes().keys()].toSorted()).toEqual([...SHARED_NAMES].toSorted())
    const section = reference().find((one) => one.title.startsWith('Values'))
    for (const name of SHARED_NAMES)
      expect(section?.entries.find((one) => one.name === name)?.text, name).not.toBe('')
  })
  it('names nothing twice in a section, and gives each entry a type or a text', () => {
    for (const { title, entries } of reference()) {
      expect(new Set(entries.map((one) => one.name)).size, title).toBe(entries.length)
      for (const one of entries) expect(`${one.type}${one.text}`, `${title} ${one.name}`).not.toBe('')
    }
  })
})
