// The problem catalogues as a whole: unique codes, sentences in one style.
import { describe, expect, it } from 'vitest'
import { AREAS } from './problem-list.ts'

const all = AREAS.flatMap(({ file, problems }) => problems.map((one) => ({ file, ...one })))

describe('problem catalogues', () => {
  it('are all in the list', () => {
    for (const { file, problems } of AREAS) expect(problems.length, file).toBeGreaterThan(0)
    expect(all.length).toBeGreaterThan(150)
  })

  it('use each code once', () => {
    const codes = all.map(({ code }) => code)
    expect(codes.filter((code, index) => codes.indexOf(code) !== index)).toEqual([])
  })

  it.each(all.map((one) => [one.code, one] as const))(
    '%s is written in full sentences',
    (code, { message, hint }) => {
      expect(code).toMatch(/^[a-z0-9]+(-[a-z0-9]+)*$/)
      for (const text of hint === undefined ? [message] : [message, hint]) {
        // A capital, a quotation mark, or the name of a document.
        expect(text).toMatch(/^([^\p{Ll}\s]|[\w/-]+\.\w+ )/u)
        expect(text).toMatch(/[.?…]$|[.?]”$/)
        expect(text).not.toMatch(/\bundefined\b|\[object|\s{2}|\.\.$/)
      }
    },
  )
})
