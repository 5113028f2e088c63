/**
 * The language of a pattern: the set of canonical paths that it matches. Patterns with their types are regular, so it is
 * decidable whether two overlap or one covers another, and there is a witness.
 */
import { DFA, isDisjointWith, NFA, type ReadonlyNFA } from 'refa'
import type { LetterCase } from '../../shapes/address-policy.ts'
import { sampleOf } from '../patterns/character-classes.ts'
import { expressionOf, MAX_CHARACTER } from '../patterns/expression.ts'
import type { Pattern } from '../patterns/pattern.ts'

/** The maximum number of nodes of an automaton. With more, refa throws and the analysis is undecided. */
const NODES = 60_000

const factory = () => new NFA.LimitedNodeFactory(NODES)
const nfaOf = (source: string): NFA =>
  NFA.fromRegex(expressionOf(source), { maxCharacter: MAX_CHARACTER }, {}, factory())
const dfaOf = (nfa: ReadonlyNFA): DFA => DFA.fromFA(nfa, new DFA.LimitedNodeFactory(NODES))

/** The percent-encodings that `readAddress` keeps: all except those of the null character and unreserved characters. */
const ENCODED = '%(?:0[1-9A-F]|1[0-9A-F]|2[0-9A-CF]|3[A-F]|40|5[B-E]|60|7[B-DF]|[89A-F][0-9A-F])'

/** Returns the expression of canonical paths: no empty segments, no dot segments, no trailing slash. */
function canonicalPaths(letterCase: LetterCase): string {
  const letters = letterCase === 'lower' ? 'a-z' : 'A-Za-z'
  const but = `(?:[${letters}0-9\\-_~!$&'\\(\\)*+,;=:@]|${ENCODED})`
  const any = `(?:\\.|${but})`
  const segment = `(?:${but}${any}*|\\.${but}${any}*|\\.\\.${any}+)`
  return `\\/|(?:\\/${segment})+`
}

const canonical = new Map<LetterCase, NFA>()
function canonicalNfa(letterCase: LetterCase): NFA {
  const known = canonical.get(letterCase)
  if (known) return known
  const made = nfaOf(canonicalPaths(letterCase))
  canonical.set(letterCase, made)
  return made
}

export class Language {
  readonly #nfa: NFA
  #rest: DFA | undefined

  private constructor(nfa: NFA) {
    this.#nfa = nfa
  }

  /** Computes the language of a pattern. */
  static of(pattern: Pattern, letterCase: LetterCase): Language {
    const own = nfaOf(pattern.regexp.source)
    return new Language(NFA.fromIntersection(own, canonicalNfa(letterCase), factory()))
  }

  get isEmpty(): boolean {
    return this.#nfa.isEmpty
  }

  /** Returns a shortest path, or undefined if the language is empty. */
  shortest(): string | undefined {
    return shortestWord(this.#nfa)
  }

  /** Yields some of the shortest paths, one for each sequence of character sets. */
  *examples(count: number): Iterable<string> {
    if (this.#nfa.isEmpty) return
    let left = count
    for (const word of this.#nfa.wordSets()) {
      if (left-- <= 0) return
      yield word.map(sampleOf).join('')
    }
  }

  overlaps(other: Language): boolean {
    return !isDisjointWith(this.#nfa, other.#nfa)
  }

  /** Returns a shortest path that is in both languages. */
  sharedWith(other: Language): string | undefined {
    return this.overlaps(other)
      ? shortestWord(NFA.fromIntersection(this.#nfa, other.#nfa, factory()))
      : undefined
  }

  /** Returns true if every path of this language is in the other. */
  isWithin(other: Language): boolean {
    return isDisjointWith(this.#nfa, (other.#rest ??= complementOf(other.#nfa)))
  }

  /** Returns a shortest path that is in none of the others, or undefined if they cover this language. */
  outside(others: readonly Language[]): string | undefined {
    if (others.length === 0) return this.shortest()
    const union = NFA.empty({ maxCharacter: MAX_CHARACTER })
    for (const other of others) union.union(other.#nfa, factory())
    const rest = complementOf(union)
    if (isDisjointWith(this.#nfa, rest)) return undefined
    return shortestWord(NFA.fromIntersection(this.#nfa, rest, factory()))
  }
}

function complementOf(nfa: ReadonlyNFA): DFA {
  const rest = dfaOf(nfa)
  rest.minimize()
  rest.complement()
  return rest
}

function shortestWord(nfa: ReadonlyNFA): string | undefined {
  if (nfa.isEmpty) return undefined
  for (const word of nfa.wordSets()) return word.map(sampleOf).join('')
  return undefined
}

/** Returns true for refa's error about too many nodes. Its class name is minified, so the message is compared. */
export const isTooComplex = (error: unknown): boolean =>
  error instanceof Error && /too many nodes|nodes/i.test(error.message)
