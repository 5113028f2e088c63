/** The syntax tree (refa) of a pattern's regular expression, from which its language and its ambiguity are computed. */
import { RegExpParser, visitRegExpAST } from '@eslint-community/regexpp'
import { JS, type Expression } from 'refa'
import type { Pattern } from './pattern.ts'

/** The largest code point. Patterns are compiled with the `v` flag. */
export const MAX_CHARACTER = 0x10ffff
/** The maximum number of nodes in a tree. A pattern of 500 characters has far fewer unless it nests repetitions. */
const NODES = 20_000

/** Parses the source of a pattern's regular expression without its anchors, since a language consists of whole paths. */
export function expressionOf(source: string): Expression {
  const parser = JS.Parser.fromLiteral({ source: withoutAnchors(source), flags: 'v' })
  return parser.parse({ assertions: 'throw', backreferences: 'throw', maxNodes: NODES }).expression
}

const withoutAnchors = (source: string) => source.replace(/^\^/, '').replace(/\$$/, '')

/** Returns the range of each parameter in a pattern's source without anchors. */
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

/** Finds an assertion or back-reference, which patterns must not have: the language would not be regular. */
export function irregularPart(source: string): string | undefined {
  const ast = new RegExpParser().parsePattern(withoutAnchors(source), 0, undefined, { unicodeSets: true })
  let found: string | undefined
  visitRegExpAST(ast, {
    onAssertionEnter: ({ raw }) => (found ??= raw),
    onBackreferenceEnter: ({ raw }) => (found ??= raw),
  })
  return found
}
