/** Finds values in styles that no browser has, and variables whose values do not fit where they are used (css-tree). */
import { generate, lexer, type Declaration } from 'css-tree'
import { distance } from 'fastest-levenshtein'

export interface ValueFault {
  /** The fault, as a sentence. */
  message: string
  /** What was written, and what was probably meant; null if that is not known. */
  actual: string
  expected: string | null
}

/** The properties that css-tree knows, which its types leave out. */
export const PROPERTIES = (
  lexer as unknown as {
    properties: Readonly<Record<string, { syntax?: { terms?: { type: string; name: string }[] } | null }>>
  }
).properties

/** Letters by which a misspelt property may differ. */
export const CHANGES = 2
type Syntax = { type: string; name?: string; term?: Syntax; terms?: Syntax[] } | null | undefined
const TYPES = (lexer as unknown as { types: Readonly<Record<string, { syntax?: Syntax }>> }).types

/** Returns all keywords that a property may have, among other values. */
function allKeywords(property: string): Set<string> {
  const found = new Set<string>()
  const seen = new Set<string>()
  const open: Syntax[] = [PROPERTIES[property.toLowerCase()]?.syntax as Syntax]
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (node === null) continue
    const { type, name = '', term, terms = [] } = node
    if (type === 'Keyword') found.add(name)
    if (type === 'Type' || type === 'Property') {
      if (seen.has(`${type} ${name}`)) continue
      seen.add(`${type} ${name}`)
      open.push((type === 'Type' ? TYPES : PROPERTIES)[name]?.syntax as Syntax)
    }
    open.push(...terms)
    if (term) open.push(term)
  }
  return found
}

/** Letters from which on a keyword may differ in two of them. */
const LONG_KEYWORD = 6

/** Returns the fault of a misspelt keyword of a property that has other values, too; browsers may know some that are new. */
export function nearKeyword(property: string, value: string): ValueFault | undefined {
  const most = value.length >= LONG_KEYWORD ? CHANGES : 1
  const expected = [...allKeywords(property)].find(
    (one) => !one.startsWith('-') && distance(one, value) <= most,
  )
  return expected === undefined
    ? undefined
    : { message: `“${value}” is not a value of “${property}”.`, actual: value, expected }
}

/** The styles of lists that browsers have (CSS Counter Styles Level 3), and the other keywords of `list-style`. */
const LIST_STYLES = (
  'none inherit initial unset revert inside outside disc circle square disclosure-open disclosure-closed decimal ' +
  'decimal-leading-zero lower-roman upper-roman lower-latin upper-latin lower-alpha upper-alpha lower-greek arabic-indic ' +
  'armenian upper-armenian lower-armenian bengali cambodian khmer cjk-decimal devanagari georgian gujarati gurmukhi hebrew ' +
  'kannada lao malayalam mongolian myanmar oriya persian tamil telugu thai tibetan hiragana hiragana-iroha katakana ' +
  'katakana-iroha cjk-earthly-branch cjk-heavenly-stem japanese-informal japanese-formal korean-hangul-formal ' +
  'korean-hanja-informal korean-hanja-formal simp-chinese-informal simp-chinese-formal trad-chinese-informal ' +
  'trad-chinese-formal ethiopic-numeric'
).split(' ')

/** Returns the fault of a style of lists that no browser has; any name may be one that @counter-style declares. */
export function counterFault(
  { property, value }: Declaration,
  counters: ReadonlySet<string>,
): ValueFault | undefined {
  if (!/^list-style(-type)?$/i.test(property)) return undefined
  const names = generate(value).split(/\s+/)
  const actual = names.find(
    (one) => /^[a-z-]+$/i.test(one) && !LIST_STYLES.includes(one.toLowerCase()) && !counters.has(one),
  )
  if (actual === undefined) return undefined
  const expected = LIST_STYLES.find((one) => distance(one, actual) <= CHANGES) ?? null
  return { message: `There is no list style “${actual}”.`, actual, expected }
}

/** Returns the first value of each variable. Others, as for a dark scheme, are taken to be of the same kind. */
export function variableValues(all: readonly { node: Declaration }[]): Map<string, string> {
  const values = new Map<string, string>()
  for (const { node } of all)
    if (node.property.startsWith('--') && !values.has(node.property))
      values.set(node.property, generate(node.value).trim())
  return values
}

/** Functions that are newer than the parser may be. */
const NEW_FUNCTION =
  /\b(light-dark|color-mix|oklch|oklab|lab|lch|color|contrast-color|if|attr|env|anchor|calc-size)\(/i
/** Variables in variables that are followed. */
const DEEPEST_VARIABLE = 5

/** Returns the fault of a declaration whose variables have values that do not fit, which no parser notices by itself. */
export function kindFault(node: Declaration, values: ReadonlyMap<string, string>): ValueFault[] {
  const { property } = node
  const written = generate(node.value)
  if (!/\bvar\(/.test(written) || !/^[a-z]/i.test(property) || !(property.toLowerCase() in PROPERTIES))
    return []
  let value = written
  for (let depth = 0; depth < DEEPEST_VARIABLE && /\bvar\(/.test(value); depth++)
    value = value.replace(
      /\bvar\(\s*(--[\w-]+)\s*(?:,[^()]*)?\)/g,
      (whole, name: string) => values.get(name) ?? whole,
    )
  if (/\bvar\(/.test(value) || NEW_FUNCTION.test(value) || value.length > LONGEST_VALUE) return []
  const { error } = lexer.matchProperty(property, value)
  if (error?.name !== 'SyntaxMatchError') return []
  return [
    {
      message: `“${property}: ${written}” is invalid: with its variables, the value is “${value}”.`,
      actual: `${property}: ${written}`,
      expected: null,
    },
  ]
}

/** Longer values are not looked at, in characters. */
const LONGEST_VALUE = 2_000
