// What could run away is refused: examples from the literature, and another analyser (npm: scslre) on random expressions.
import fc from 'fast-check'
import { analyse } from 'scslre'
import { describe, expect, it } from 'vitest'
import { linearTime } from './linear-time.ts'
import { compilePattern } from './pattern.ts'

function judge(text: string, params = {}): string {
  const result = compilePattern(text, params)
  if (!result.ok) throw new Error(`${text}: ${result.error.message}`)
  const verdict = linearTime(result.pattern)
  return verdict.ok ? 'linear' : verdict.message
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
  ])('%s is matched in linear time', (text) => {
    expect(judge(text)).toBe('linear')
  })

  it('so is every type, alone and beside another', () => {
    const types = ['text', 'slug', 'integer', 'number', 'uuid', 'year', 'month', 'day', 'path']
    for (const a of types) {
      expect(judge('/:a/x', { a }), a).toBe('linear')
      // Two rests of the path can pass segments back and forth.
      for (const b of types)
        expect(judge('/:a/:b', { a, b }) === 'linear', `${a}/${b}`).toBe(a !== 'path' || b !== 'path')
    }
    expect(judge('/:year-:month-:day', { year: 'year', month: 'month', day: 'day' })).toBe('linear')
    expect(judge('/:slug-:id', { slug: 'slug', id: 'integer' })).toBe('linear')
  })

  it.each([
    // OWASP, “Regular expression Denial of Service”, examples of evil expressions.
    ['/:x((?:a+)+)', /“:x” can read “aaa…” in ever more ways/],
    ['/:x((?:[a-zA-Z]+)*)', /ever more ways/],
    ['/:x((?:a|aa)+)', /ever more ways/],
    ['/:x((?:a|a?)+)', /ever more ways/],
    ['/:x((?:.*a){12})', /many ways/],
    // Alternatives that overlap, empty alternatives, and rounds within rounds.
    ['/:x((?:a|a)+)', /ever more ways/],
    ['/:x((?:x|xy|y)*)', /ever more ways/],
    ['/:x((?:(?:|)a)*)', /ever more ways/],
    ['/:x((?:a*)*)', /ever more ways/],
    ['/:x((?:ab|a|b)+)', /ever more ways/],
    // Two parts that can pass the same text back and forth.
    ['/:a-:b', /“:a” and “:b” can share “-.?” in many ways/],
    ['/*/x/*', /in many ways/],
    ['/:x(\\d+-?\\d+)', /“:x” can read “0” in many ways/],
    ['/:a*/:b+', /“:a” and “:b” can share/],
    // Bounded, but large.
    ['/:x((?:a?){30}a{30})', /in more than 2000 ways/],
    // Not regular.
    ['/:x((?=a)a)', /“\(\?=a\)” looks ahead/],
    ['/:x(\\bx)', /“\\b” looks ahead/],
    ['/:x((?:a{100}){100})', /repeats too much/],
  ])('%s is refused', (text, message) => {
    expect(judge(text)).toMatch(message)
  })

  it('refuses whatever scslre finds, on random expressions', () => {
    // Without empty alternatives, which scslre reports although they read nothing.
    let refused = 0
    fc.assert(
      fc.property(expression(false), (tree) => {
        const source = sourceOf(tree)
        const result = compilePattern(`/:x(${source})`)
        if (!result.ok) throw new Error(source)
        const { reports } = analyse({ source: result.pattern.regexp.source, flags: 'u' })
        // It also reports what an expression that is not anchored would do; ours are.
        const found = reports.filter((one) => one.type !== 'Move')
        const isLinear = linearTime(result.pattern).ok
        if (found.length > 0) expect(isLinear, source).toBe(false)
        if (!isLinear) refused++
      }),
      { numRuns: 400 },
    )
    expect(refused).toBeGreaterThan(100)
  })

  it('what it lets through takes steps in proportion to the length of the text', () => {
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

/** An expression over a and b, small enough to be matched step by step. */
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

/** Steps of a matcher that backtracks as ECMA-262 §22.2.2 says, until it gives the text up. */
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
