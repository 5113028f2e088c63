/**
 * Decides whether a backtracking matcher takes time linear in the length of every address.
 *
 * A backtracking matcher tries every way in which its expression matches a prefix of the text. In the position automaton
 * of the expression (Glushkov 1961) each way is a path, so the question is how ambiguous the automaton is (Weber and
 * Seidl, On the degree of ambiguity of finite automata, 1991). The number of paths grows exponentially iff some state
 * has two different paths to itself for one word. It grows polynomially iff one word leads some state both to itself and
 * to another state, and leads that other state to itself. A bounded but large number of paths is found by counting.
 */
import { LRUCache } from 'lru-cache'
import type { CharSet, Concatenation, Element, Expression, Quantifier } from 'refa'
import { characterClasses, type CharacterClasses } from './character-classes.ts'
import { expressionOf, irregularPart, parameterRanges } from './expression.ts'
import type { Pattern } from './pattern.ts'

/** A refusal names the parameter at fault, if it is one, and gives the reason as part of a sentence. */
export type LinearTime = { ok: true } | { ok: false; reason: string; parameter: string | undefined }

/** The maximum number of positions, with counted repetitions expanded. */
const POSITIONS = 400
/** The maximum number of ways to match a prefix of one text. */
const WAYS = 2_000
/** The maximum number of steps when searching for polynomial growth. A pattern that needs more is refused as unproven. */
const STEPS = 1_000_000

/** For each position that follows: 1, or 2 for “in more than one way”. Larger numbers make no difference. */
type Ways = Map<number, number>

interface Fragment {
  /** In how many ways it matches the empty text, at most 2. */
  empty: number
  first: Ways
  last: Ways
}

class TooLarge extends Error {}

/** The position automaton. Position 0 is the start; the other positions are the characters of the expression. */
class Automaton {
  readonly sets: (CharSet | undefined)[] = [undefined]
  readonly starts: number[] = [-1]
  readonly follow: Ways[] = [new Map()]

  constructor(expression: Expression) {
    const whole = this.#alternatives(expression.alternatives)
    this.#link(new Map([[0, 1]]), whole.first)
  }

  #alternatives(alternatives: readonly Concatenation[]): Fragment {
    const all: Fragment = { empty: 0, first: new Map(), last: new Map() }
    for (const alternative of alternatives) {
      const one = this.#sequence(alternative.elements)
      all.empty = several(all.empty + one.empty)
      add(all.first, one.first, 1)
      add(all.last, one.last, 1)
    }
    return all
  }

  #sequence(elements: readonly Element[]): Fragment {
    return elements.reduce<Fragment>(
      (before, element) => this.#then(before, this.#element(element)),
      nothing(),
    )
  }

  #then(a: Fragment, b: Fragment): Fragment {
    this.#link(a.last, b.first)
    const first = new Map(a.first)
    const last = new Map(b.last)
    add(first, b.first, a.empty)
    add(last, a.last, b.empty)
    return { empty: several(a.empty * b.empty), first, last }
  }

  #element(element: Element): Fragment {
    switch (element.type) {
      case 'CharacterClass': {
        const position = this.sets.push(element.characters) - 1
        if (position > POSITIONS) throw new TooLarge()
        this.starts.push((element as { source?: { start: number } }).source?.start ?? -1)
        this.follow.push(new Map())
        return { empty: 0, first: new Map([[position, 1]]), last: new Map([[position, 1]]) }
      }
      case 'Alternation':
        return this.#alternatives(element.alternatives)
      case 'Quantifier':
        return this.#quantifier(element)
      default:
        throw new Error(`“${element.type}” is not regular`)
    }
  }

  #quantifier({ min, max, alternatives }: Quantifier): Fragment {
    const required = max === Infinity ? Math.max(min - 1, 0) : min
    let whole = nothing()
    for (let copy = 0; copy < required; copy++) whole = this.#then(whole, this.#alternatives(alternatives))
    if (max !== Infinity) return this.#then(whole, this.#optional(alternatives, max - min))
    const loop = this.#alternatives(alternatives)
    this.#link(loop.last, loop.first)
    // A round that matches nothing ends the loop, so the empty text is matched in only one way.
    return this.#then(whole, min === 0 ? { ...loop, empty: 1 } : loop)
  }

  /** Expands `x{0,3}` as a matcher does: an optional x, followed by another optional x, and so on. */
  #optional(alternatives: readonly Concatenation[], count: number): Fragment {
    if (count === 0) return nothing()
    const one = this.#alternatives(alternatives)
    const whole = this.#then(one, this.#optional(alternatives, count - 1))
    return { ...whole, empty: 1 }
  }

  #link(from: Ways, to: Ways): void {
    for (const [position, ways] of from) add(this.follow[position] ?? new Map<number, number>(), to, ways)
  }
}

const nothing = (): Fragment => ({ empty: 1, first: new Map(), last: new Map() })
const several = (ways: number) => Math.min(ways, 2)
function add(to: Ways, from: Ways, times: number): void {
  if (times === 0) return
  for (const [position, ways] of from) to.set(position, several((to.get(position) ?? 0) + ways * times))
}

/** Verdicts by pattern, since every save compiles all routes again. */
const verdicts = new LRUCache<string, LinearTime>({ max: 1_000 })

/** Decides whether a compiled pattern matches in linear time. */
export function linearTime(pattern: Pattern): LinearTime {
  const key = `${pattern.names.join(' ')} ${pattern.regexp.source}`
  const known = verdicts.get(key)
  if (known) return known
  const verdict = judge(pattern)
  verdicts.set(key, verdict)
  return verdict
}

/** Whether a parameter's source is linear on its own, by source. */
const linearSources = new LRUCache<string, boolean>({ max: 1_000 })

function isLinearAlone(source: string): boolean {
  const known = linearSources.get(source)
  if (known !== undefined) return known
  const isLinear =
    irregularPart(source) === undefined && !new Ambiguity(new Automaton(expressionOf(source))).find()
  linearSources.set(source, isLinear)
  return isLinear
}

/**
 * Returns true if each part stays within its own segment and is linear on its own. Text cannot move from one part to
 * another across a slash, so the whole pattern is linear too. This quick test succeeds for most patterns.
 */
function isLinearBySegments({ parts }: Pattern): boolean {
  let afterSlash = true
  for (const part of parts) {
    if (part.modifier !== '') return false
    if (part.kind === 'fixed') {
      afterSlash ||= part.text.includes('/')
      continue
    }
    const staysInSegment = part.type === undefined ? part.source === '[^\\/]+?' : part.type !== 'path'
    afterSlash ||= part.prefix.includes('/')
    if (!staysInSegment || !afterSlash || !isLinearAlone(part.source)) return false
    afterSlash = part.suffix.includes('/')
  }
  return true
}

function judge(pattern: Pattern): LinearTime {
  if (isLinearBySegments(pattern)) return { ok: true }
  const { source } = pattern.regexp
  const irregular = irregularPart(source)
  if (irregular !== undefined)
    return {
      ok: false,
      parameter: undefined,
      reason: `“${irregular}” is an assertion or a back-reference; use only characters, classes, groups and repetitions`,
    }
  let automaton: Automaton
  try {
    automaton = new Automaton(expressionOf(source))
  } catch (error) {
    const isLarge = error instanceof TooLarge || (error instanceof Error && /nodes/i.test(error.message))
    if (!isLarge) throw error
    return {
      ok: false,
      parameter: undefined,
      reason: 'its repetitions are too large to match quickly; use smaller counts',
    }
  }
  const ranges = parameterRanges(pattern)
  const parameterAt = (position: number) => {
    const at = automaton.starts[position] ?? -1
    return ranges.findLast((one) => one.start <= at && at < one.end)?.name
  }
  const found = new Ambiguity(automaton).find()
  if (!found) return { ok: true }
  const [p, q] = found.states.map(parameterAt)
  const named = [...new Set([p, q].filter((one) => one !== undefined))].map((one) => `“:${one}”`)
  const what = named.length === 0 ? 'it' : named.join(' and ')
  return { ok: false, parameter: p ?? q, reason: REASONS[found.kind](what, named.length, found.text) }
}

type Kind = 'exponential' | 'polynomial' | 'many' | 'unproven'

/** Why a pattern is refused, by the kind of growth. */
const REASONS: Record<Kind, (what: string, count: number, text: string) => string> = {
  exponential: (what, _, text) =>
    `${what} matches “${text}…” in exponentially many ways, so a long address could take very long to reject; remove the nested repetition`,
  polynomial: (what, count, text) =>
    count === 2
      ? `${what} can divide “${text}” between them in many ways, so a long address could take very long to reject; give one of them a type that excludes the start of the other`
      : `${what} matches “${text}” in many ways, so a long address could take very long to reject; repeat it in only one place`,
  many: (what, _, text) =>
    `${what} matches “${text}” in more than ${WAYS} ways, so an address could take very long to reject; use fewer alternatives`,
  unproven: (what) => `${what} is too complex to prove that it matches quickly; simplify it`,
}

interface Found {
  kind: Kind
  states: [number, number]
  /** A text that matches in several ways. */
  text: string
}

/** Searches a position automaton for growing ambiguity. Characters that are in the same sets are treated as one. */
class Ambiguity {
  readonly #follow: readonly Ways[]
  readonly #classes: bigint[]
  readonly #base: CharacterClasses
  readonly #component: number[]
  readonly #loops: Map<number, number[]>

  constructor(automaton: Automaton) {
    this.#follow = automaton.follow
    this.#base = characterClasses(automaton.sets)
    this.#classes = this.#base.masks
    this.#component = components(automaton.follow)
    this.#loops = new Map()
    for (const [state, component] of this.#component.entries()) {
      const isLoop = [...(this.#follow[state]?.keys() ?? [])].some(
        (next) => this.#component[next] === component,
      )
      if (isLoop) this.#loops.set(component, [...(this.#loops.get(component) ?? []), state])
    }
  }

  find(): Found | undefined {
    for (const states of this.#loops.values()) {
      const found = this.#exponentialIn(states)
      if (found) return found
    }
    return this.#polynomial() ?? this.#manyWays()
  }

  #text = (state: number) => this.#base.sample(this.#classes[state] ?? 0n)

  /** Searches for two different paths from a state to itself for one word. */
  #exponentialIn(states: readonly number[]): Found | undefined {
    const own = new Set(states)
    const next = (state: number) => [...(this.#follow[state] ?? [])].filter(([to]) => own.has(to))
    for (const state of states)
      for (const [to, ways] of next(state))
        if (ways > 1) return { kind: 'exponential', states: [state, to], text: this.#text(to).repeat(3) }
    const width = this.#follow.length
    const forward = new Map<number, number[]>()
    const pending = states.map((state) => state * width + state)
    const reached = new Set(pending)
    const backward = new Map<number, number[]>()
    for (let pair = pending.pop(); pair !== undefined; pair = pending.pop()) {
      const targets: number[] = []
      for (const [a] of next(Math.floor(pair / width)))
        for (const [b] of next(pair % width)) {
          if (((this.#classes[a] ?? 0n) & (this.#classes[b] ?? 0n)) === 0n) continue
          const target = a * width + b
          targets.push(target)
          backward.set(target, [...(backward.get(target) ?? []), pair])
          if (!reached.has(target)) {
            reached.add(target)
            pending.push(target)
          }
        }
      forward.set(pair, targets)
    }
    // Search backwards from the diagonal for a pair of different states that leads back to it.
    const back = states.map((state) => state * width + state)
    const returning = new Set(back)
    for (let pair = back.pop(); pair !== undefined; pair = back.pop()) {
      for (const before of backward.get(pair) ?? []) {
        if (returning.has(before)) continue
        returning.add(before)
        back.push(before)
        const [p, r] = [Math.floor(before / width), before % width]
        if (p !== r) return { kind: 'exponential', states: [p, r], text: this.#text(p).repeat(3) }
      }
    }
    return undefined
  }

  /** Searches for a word that leads p to p, p to q, and q to q. */
  #polynomial(): Found | undefined {
    const loops = [...this.#loops.values()]
    let steps = 0
    for (const from of loops)
      for (const to of loops) {
        if (from === to || !this.#reaches(from[0] ?? 0, to[0] ?? 0)) continue
        for (const p of from)
          for (const q of to) {
            const result = this.#together(p, q, new Set(from), new Set(to), STEPS - steps)
            steps += result.steps
            if (result.text !== undefined) return { kind: 'polynomial', states: [p, q], text: result.text }
            if (steps >= STEPS) return { kind: 'unproven', states: [p, q], text: '' }
          }
      }
    return undefined
  }

  #reaches(from: number, to: number): boolean {
    const seen = new Set([from])
    const pending = [from]
    for (let state = pending.pop(); state !== undefined; state = pending.pop()) {
      if (state === to) return true
      for (const next of this.#follow[state]?.keys() ?? [])
        if (!seen.has(next)) {
          seen.add(next)
          pending.push(next)
        }
    }
    return false
  }

  #together(
    p: number,
    q: number,
    from: ReadonlySet<number>,
    to: ReadonlySet<number>,
    limit: number,
  ): { text?: string; steps: number } {
    const width = this.#follow.length
    const key = (a: number, b: number, c: number) => (a * width + b) * width + c
    const start: [number, number, number] = [p, p, q]
    const cameFrom = new Map<number, { before: number; text: string } | null>([[key(...start), null]])
    let pending = [start]
    let steps = 0
    while (pending.length > 0) {
      const following: [number, number, number][] = []
      for (const [a, b, c] of pending)
        for (const nextA of this.#follow[a]?.keys() ?? []) {
          if (!from.has(nextA)) continue
          for (const nextC of this.#follow[c]?.keys() ?? []) {
            const both = (this.#classes[nextA] ?? 0n) & (this.#classes[nextC] ?? 0n)
            if (!to.has(nextC) || both === 0n) continue
            for (const nextB of this.#follow[b]?.keys() ?? []) {
              const all = both & (this.#classes[nextB] ?? 0n)
              const at = key(nextA, nextB, nextC)
              if (all === 0n || cameFrom.has(at)) continue
              if (++steps > limit) return { steps }
              cameFrom.set(at, { before: key(a, b, c), text: this.#base.sample(all) })
              if (nextA === p && nextB === q && nextC === q) return { text: spell(cameFrom, at), steps }
              following.push([nextA, nextB, nextC])
            }
          }
        }
      pending = following
    }
    return { steps }
  }

  /** Counts paths along the character that allows the most, for as many steps as there are positions. */
  #manyWays(): Found | undefined {
    let ways = new Map<number, number>([[0, 1]])
    let text = ''
    for (let step = 0; step <= this.#follow.length; step++) {
      let best: { ways: Map<number, number>; total: number; character: string } | undefined
      for (const [index, character] of this.#base.samples.entries()) {
        const bit = 1n << BigInt(index)
        const after = new Map<number, number>()
        let total = 0
        for (const [state, count] of ways)
          for (const [next, times] of this.#follow[state] ?? []) {
            if (((this.#classes[next] ?? 0n) & bit) === 0n) continue
            after.set(next, (after.get(next) ?? 0) + count * times)
            total += count * times
          }
        if (best === undefined || total > best.total) best = { ways: after, total, character }
      }
      if (best === undefined || best.total === 0) return undefined
      text += best.character
      if (best.total > WAYS) {
        const [state = 0] = best.ways.keys()
        return { kind: 'many', states: [state, state], text: text.slice(-20) }
      }
      ways = best.ways
    }
    return undefined
  }
}

function spell(cameFrom: ReadonlyMap<number, { before: number; text: string } | null>, end: number): string {
  let text = ''
  for (let step = cameFrom.get(end); step; step = cameFrom.get(step.before)) text = step.text + text
  return text
}

/** Numbers the strongly connected components (Tarjan 1972, iterative). */
function components(follow: readonly Ways[]): number[] {
  const order: number[] = new Array<number>(follow.length).fill(-1)
  const low: number[] = [...order]
  const component: number[] = [...order]
  const stack: number[] = []
  let count = 0
  let found = 0
  for (const root of follow.keys()) {
    if (order[root] !== -1) continue
    const work: { state: number; rest: number[] }[] = [
      { state: root, rest: [...(follow[root]?.keys() ?? [])] },
    ]
    order[root] = low[root] = count++
    stack.push(root)
    while (work.length > 0) {
      const top = work[work.length - 1]
      if (!top) break
      const next = top.rest.pop()
      if (next === undefined) {
        work.pop()
        const parent = work.at(-1)
        if (parent) low[parent.state] = Math.min(low[parent.state] ?? 0, low[top.state] ?? 0)
        if (low[top.state] === order[top.state]) {
          for (let state = stack.pop(); state !== undefined; state = stack.pop()) {
            component[state] = found
            if (state === top.state) break
          }
          found++
        }
      } else if (order[next] === -1) {
        order[next] = low[next] = count++
        stack.push(next)
        work.push({ state: next, rest: [...(follow[next]?.keys() ?? [])] })
      } else if (component[next] === -1) {
        low[top.state] = Math.min(low[top.state] ?? 0, order[next] ?? 0)
      }
    }
  }
  return component
}
