/** The regular expression of a pattern as refa's syntax tree, which languages and ambiguity are computed from. */
import { RegExpParser, visitRegExpAST } from '@eslint-community/regexpp'
import { JS, type Expression } from 'refa'
import type { Pattern } from './pattern.ts'

/** Largest code point: patterns are compiled with the flag `v`. */
export const MAX_CHARACTER = 0x10ffff
/** Nodes of a tree at most; a pattern of 500 characters has far fewer, unless it repeats repetitions. */
const NODES = 20_000

/** Parses the source of a pattern's regular expression, its anchors left out: a language is of whole addresses. */
export function expressionOf(source: string): Expression {
  const parser = JS.Parser.fromLiteral({ source: withoutAnchors(source), flags: 'v' })
  return parser.parse({ assertions: 'throw', backreferences: 'throw', maxNodes: NODES }).expression
}

const withoutAnchors = (source: string) => source.replace(/^\^/, '').replace(/\$$/, '')

/** Where each parameter stands in a pattern's source without anchors. */
export function parameterRanges(pattern: Pattern): { name: string; start: number; end: number }[] {
  const ast = new RegExpParser().parsePattern(withoutAnchors(pattern.regexp.source), 0, undefined, {
    unicodeSets: true,
  })
  const groups: { start: number; end: number }[] = []
  visitRegExpAST(ast, { onCapturingGroupEnter: ({ start, end }) => groups.push({ start, end }) })
  return groups
    .sort((a, b) => a.start - b.start)
    .flatMap((group, index) => {
      const name = pattern.names[index]
      return name === undefined ? [] : [{ name, ...group }]
    })
}

/** What a pattern may not use: it is not regular, or it makes matching super-linear. */
export function irregularPart(source: string): string | undefined {
  const ast = new RegExpParser().parsePattern(withoutAnchors(source), 0, undefined, { unicodeSets: true })
  let found: string | undefined
  visitRegExpAST(ast, {
    onAssertionEnter: ({ raw }) => (found ??= raw),
    onBackreferenceEnter: ({ raw }) => (found ??= raw),
  })
  return found
}
