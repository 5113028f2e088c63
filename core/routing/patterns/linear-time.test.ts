// Linear-time matching: examples from the literature, and random expressions compared with another analyser (npm: scslre).
import fc from 'fast-check'
import { analyse } from 'scslre'
import { describe, expect, it } from 'vitest'
import { linearTime } from './linear-time.ts'
import { compilePattern } from './pattern.ts'

function judge(text: string, params = {}): string {
  const result = compilePattern(text, params)
  if (!result.ok) throw new Error(`${text}: ${result.error.reason}`)
  const verdict = linearTime(result.pattern)
  return verdict.ok ? 'linear' : verdict.reason
}

describe('linearTime', () => {
  it.each([
    '/',
    '/posts/:slug',
    '/:a/:b/:c',
    '/*',
    '/files/*',
    '/tags/:tag+',
    '/tags/:tag*',
    '/a{/:b}*',
    '/:year(\\d+)/:month(\\d+)',
    '/:name-:id(\\d+)',
    '/:page.html',
    '/:x(a|b|ab)',
    '/:x([a-z]+(?:-[a-z]+)*)',
    '/:x((?:ab)*)',
    '/:x(a{1,5})',
    '/:x(.*)',
    '/:x([\\w--\\d]+)',
  ])('accepts %s', (text) => {
    expect(judge(text)).toBe('linear')
  })

  it('accepts every type, alone and next to every other type', () => {
    const types = ['text', 'slug', 'integer', 'number', 'uuid', 'year', 'month', 'day', 'path']
    for (const a of types) {
      expect(judge('/:a/x', { a }), a).toBe('linear')
      // Two `path` parameters can divide the segments between them in many ways.
      for (const b of types)
        expect(judge('/:a/:b', { a, b }) === 'linear', `${a}/${b}`).toBe(a !== 'path' || b !== 'path')
    }
    expect(judge('/:year-:month-:day', { year: 'year', month: 'month', day: 'day' })).toBe('linear')
    expect(judge('/:slug-:id', { slug: 'slug', id: 'integer' })).toBe('linear')
  })

  it.each([
    // OWASP, “Regular expression Denial of Service”, examples of evil expressions.
    ['/:x((?:a+)+)', /“:x” matches “aaa…” in exponentially many ways/],
    ['/:x((?:[a-zA-Z]+)*)', /exponentially many ways/],
    ['/:x((?:a|aa)+)', /exponentially many ways/],
    ['/:x((?:a|a?)+)', /exponentially many ways/],
    ['/:x((?:.*a){12})', /many ways/],
    // Overlapping alternatives, empty alternatives and nested repetitions.
    ['/:x((?:a|a)+)', /exponentially many ways/],
    ['/:x((?:x|xy|y)*)', /exponentially many ways/],
    ['/:x((?:(?:|)a)*)', /exponentially many ways/],
    ['/:x((?:a*)*)', /exponentially many ways/],
    ['/:x((?:ab|a|b)+)', /exponentially many ways/],
    // Two parts that can divide the same text between them in many ways.
    ['/:a-:b', /“:a” and “:b” can divide “-.?” between them in many ways/],
    ['/*/x/*', /in many ways/],
    ['/:x(\\d+-?\\d+)', /“:x” matches “0” in many ways/],
    ['/:a*/:b+', /“:a” and “:b” can divide/],
    // Bounded but large.
    ['/:x((?:a?){30}a{30})', /in more than 2000 ways/],
    // Not regular.
    ['/:x((?=a)a)', /“\(\?=a\)” is an assertion/],
    ['/:x(\\bx)', /“\\b” is an assertion/],
    ['/:x((?:a{100}){100})', /repetitions are too large/],
  ])('refuses %s', (text, message) => {
    expect(judge(text)).toMatch(message)
  })

  it('refuses every random expression that scslre reports', () => {
    // No empty alternatives: scslre reports them although they match nothing.
    let refused = 0
    fc.assert(
      fc.property(expression(false), (tree) => {
        const source = sourceOf(tree)
        const result = compilePattern(`/:x(${source})`)
        if (!result.ok) throw new Error(source)
        const { reports } = analyse({ source: result.pattern.regexp.source, flags: 'u' })
        // “Move” reports concern unanchored expressions. These are anchored.
        const found = reports.filter((one) => one.type !== 'Move')
        const isLinear = linearTime(result.pattern).ok
        if (found.length > 0) expect(isLinear, source).toBe(false)
        if (!isLinear) refused++
      }),
      { numRuns: 400 },
    )
    expect(refused).toBeGreaterThan(100)
  })

  it('accepts only expressions that take a number of steps proportional to the length of the text', () => {
    const word = fc.string({ unit: fc.constantFrom('a', 'b'), minLength: 1, maxLength: 4 })
    let linear = 0
    fc.assert(
      fc.property(expression(true), word, word, (tree, before, pump) => {
        const result = compilePattern(`/:x(${sourceOf(tree)})`)
        if (!result.ok) throw new Error(sourceOf(tree))
        if (!linearTime(result.pattern).ok) return
        linear++
        const steps = (times: number) => stepsToRefuse(tree, `${before}${pump.repeat(times)}!`)
        const [none, some, more] = [steps(0), steps(20), steps(40)]
        expect(more - some, `${sourceOf(tree)} on ${before}(${pump})*`).toBeLessThanOrEqual(
          1.5 * (some - none) + 200,
        )
      }),
      { numRuns: 600 },
    )
    expect(linear).toBeGreaterThan(100)
  })
})

/** An expression over a and b, small enough to match step by step. */
type Tree =
  | { kind: 'char'; of: string }
  | { kind: 'seq'; parts: Tree[] }
  | { kind: 'alt'; parts: Tree[] }
  | { kind: 'times'; part: Tree; min: number; max: number }

const seq = (...parts: Tree[]): Tree => ({ kind: 'seq', parts })
const expression = (withEmpty: boolean): fc.Arbitrary<Tree> =>
  fc.letrec<{ tree: Tree; atom: Tree }>((tie) => ({
    atom: fc.oneof(
      { depthSize: 'xsmall', maxDepth: 2 },
      fc.constantFrom('a', 'b', 'ab').map((of): Tree => ({ kind: 'char', of })),
      fc.array(tie('tree'), { minLength: 2, maxLength: 2 }).map((parts): Tree => ({ kind: 'alt', parts })),
      ...(withEmpty ? [tie('tree').map((part): Tree => ({ kind: 'alt', parts: [seq(), part] }))] : []),
    ),
    tree: fc
      .array(
        fc
          .tuple(
            tie('atom'),
            fc.constantFrom([1, 1], [1, 1], [0, Infinity], [1, Infinity], [0, 1], [2, 2], [1, 3]),
          )
          .map(([part, [min = 1, max = 1]]): Tree =>
            min === 1 && max === 1 ? part : { kind: 'times', part, min, max },
          ),
        { minLength: 1, maxLength: 3 },
      )
      .map((parts) => seq(...parts)),
  })).tree

function sourceOf(tree: Tree): string {
  switch (tree.kind) {
    case 'char':
      return tree.of.length === 1 ? tree.of : `[${tree.of}]`
    case 'seq':
      return tree.parts.map(sourceOf).join('')
    case 'alt':
      return `(?:${tree.parts.map(sourceOf).join('|')})`
    case 'times': {
      const { min, max, part } = tree
      const times = max === Infinity ? (min === 0 ? '*' : '+') : max === 1 ? '?' : `{${min},${max}}`
      return `(?:${sourceOf(part)})${times}`
    }
  }
}

/** Counts the steps until a backtracking matcher (ECMA-262 §22.2.2) rejects the text. */
function stepsToRefuse(tree: Tree, text: string): number {
  let steps = 0
  const match = (node: Tree, at: number, then: (at: number) => boolean): boolean => {
    if (++steps > 300_000) return true
    switch (node.kind) {
      case 'char':
        return node.of.includes(text[at] ?? '?') && then(at + 1)
      case 'alt':
        return node.parts.some((part) => match(part, at, then))
      case 'seq': {
        const from = (index: number, here: number): boolean => {
          const part = node.parts[index]
          return part ? match(part, here, (next) => from(index + 1, next)) : then(here)
        }
        return from(0, at)
      }
      case 'times': {
        const round = (count: number, here: number): boolean =>
          (count < node.max &&
            match(
              node.part,
              here,
              (next) => !(next === here && count >= node.min) && round(count + 1, next),
            )) ||
          (count >= node.min && then(here))
        return round(0, at)
      }
    }
  }
  match(tree, 0, (at) => at === text.length)
  return steps
}
