/** Finds declarations in stylesheets that browsers ignore, and styles that hide the focus (css-tree). */
import { distance } from 'fastest-levenshtein'
import { generate, lexer, parse, walk, type CssNode, type Declaration, type Rule as CssRule } from 'css-tree'

export interface StyleFault {
  asset: string
  line: number
  /** The fault, as a sentence. */
  message: string
  /** What was written, and what was probably meant; null if that is not known. */
  actual: string
  expected: string | null
}

/** The properties that css-tree knows, which its types leave out. */
const PROPERTIES = (
  lexer as unknown as {
    properties: Readonly<Record<string, { syntax?: { terms?: { type: string; name: string }[] } | null }>>
  }
).properties

/** Letters by which a misspelt property may differ. */
const CHANGES = 2
/** At-rules whose blocks have declarations of elements; others, such as @font-face, have descriptors. */
const OF_ELEMENTS = new Set(['media', 'supports', 'layer', 'container', 'scope', 'starting-style'])

export type Assets = ReadonlyMap<string, string>

interface Found {
  asset: string
  node: Declaration
  rule: CssRule | null
  /** Whether it is only for printing. */
  isForPrint: boolean
  /** Whether it always applies, and not only in some media. */
  isAlways: boolean
}

/** Yields the declarations of elements in all stylesheets. */
function* declarations(assets: Assets): Generator<Found> {
  for (const [asset, text] of assets) {
    if (!asset.endsWith('.css')) continue
    const found: Found[] = []
    walk(parse(text, { positions: true, parseCustomProperty: true }), function (node: CssNode) {
      if (node.type !== 'Declaration') return
      const at = this.atrule?.name.toLowerCase()
      const media = this.atrule?.prelude ? generate(this.atrule.prelude) : ''
      if (at === undefined || OF_ELEMENTS.has(at))
        found.push({
          asset,
          node,
          rule: this.rule,
          isForPrint: /\bprint\b/.test(media),
          isAlways: at === undefined,
        })
    })
    yield* found
  }
}

/** Finds unknown properties and keywords that are similar to known ones, and variables that nothing sets. */
export function ignoredDeclarations(assets: Assets): StyleFault[] {
  const all = [...declarations(assets)]
  const scripts = [...assets].flatMap(([name, text]) => (name.endsWith('.js') ? [text] : []))
  const set = new Set(all.flatMap(({ node }) => (node.property.startsWith('--') ? [node.property] : [])))
  for (const [name, text] of assets)
    if (name.endsWith('.css'))
      for (const [, property = ''] of text.matchAll(/@property\s+(--[\w-]+)/g)) set.add(property)
  const values = variableValues(all)
  const counters = new Set(
    [...assets.values()].flatMap((text) =>
      [...text.matchAll(/@counter-style\s+([\w-]+)/g)].map(([, one = '']) => one),
    ),
  )
  return all.flatMap(({ asset, node }) => {
    const line = node.loc?.start.line ?? 1
    const fault = faultOf(node, counters)
    const unset = variablesIn(node).filter(
      (one) => !set.has(one) && !scripts.some((text) => text.includes(one)),
    )
    return [
      ...(fault ? [{ asset, line, ...fault }] : []),
      ...(fault || unset.length > 0 ? [] : kindFault(node, values).map((one) => ({ asset, line, ...one }))),
      ...unset.map((one) => {
        const [near] = [...set].filter((other) => distance(other, one) <= CHANGES)
        return {
          asset,
          line,
          message: `The variable “${one}” is not set anywhere.`,
          actual: `var(${one})`,
          expected: near === undefined ? null : `var(${near})`,
        }
      }),
    ]
  })
}

function faultOf(
  node: Declaration,
  counters: ReadonlySet<string>,
): Pick<StyleFault, 'message' | 'actual' | 'expected'> | undefined {
  const { property } = node
  const colour = property.startsWith('--') ? generate(node.value).trim() : ''
  if (/^#[\w-]+$/.test(colour) && !HEX_COLOUR.test(colour))
    return { message: `“${colour}” is not a colour.`, actual: colour, expected: null }
  // Custom properties, prefixed ones and hacks.
  if (!/^[a-z]/i.test(property)) return undefined
  const { error } = lexer.matchDeclaration(node)
  if (error === null) return counterFault(node, counters)
  if (error.name === 'SyntaxReferenceError') {
    const near = Object.keys(PROPERTIES).find(
      (one) => !one.startsWith('-') && distance(one, property.toLowerCase()) <= CHANGES,
    )
    return near === undefined
      ? undefined
      : { message: `“${property}” is not a property.`, actual: property, expected: near }
  }
  const value = generate(node.value)
  // `34 0 2em` as well as `34`.
  const measured = value.replace(BARE_NUMBER, '$&px')
  if (measured !== value && lexer.matchProperty(property, measured).error === null)
    return {
      message: `“${property}: ${value}” has no unit.`,
      actual: `${property}: ${value}`,
      expected: `${property}: ${measured}`,
    }
  if (/^(.*-)?color$/.test(property) && /^[a-z]+$/i.test(value))
    return { message: `“${value}” is not a colour.`, actual: `${property}: ${value}`, expected: null }
  const keywords = keywordsOf(property)
  // Only properties with nothing but keywords: others get new kinds of values from time to time.
  if (keywords === undefined || !/^[a-z-]+$/i.test(value)) return undefined
  const [near] = keywords.filter(
    (one) => distance(one, value) <= CHANGES || one.startsWith(value) || one.endsWith(value),
  )
  return {
    message: `“${value}” is not a value of “${property}”.`,
    actual: value,
    expected: near ?? keywords.join(', '),
  }
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
function counterFault(
  { property, value }: Declaration,
  counters: ReadonlySet<string>,
): Pick<StyleFault, 'message' | 'actual' | 'expected'> | undefined {
  if (!/^list-style(-type)?$/i.test(property)) return undefined
  const names = generate(value).split(/\s+/)
  const actual = names.find(
    (one) => /^[a-z-]+$/i.test(one) && !LIST_STYLES.includes(one.toLowerCase()) && !counters.has(one),
  )
  if (actual === undefined) return undefined
  const expected = LIST_STYLES.find((one) => distance(one, actual) <= CHANGES) ?? null
  return { message: `There is no list style “${actual}”.`, actual, expected }
}

/** A number without a unit that is not 0. */
const BARE_NUMBER = /(?<![\w.#-])(?!0(?:\.0*)?(?![\d.]))\d*\.?\d+(?![\w.%])/g

/** Returns the keywords of a property that has no other values; undefined for other properties. */
function keywordsOf(property: string): string[] | undefined {
  const terms = PROPERTIES[property.toLowerCase()]?.syntax?.terms
  if (!terms || terms.length === 0 || terms.some((one) => one.type !== 'Keyword')) return undefined
  return terms.map((one) => one.name)
}

/** Returns the variables that a declaration uses without a fallback. */
function variablesIn(node: Declaration): string[] {
  const found: string[] = []
  walk(node.value, (one: CssNode) => {
    if (one.type !== 'Function' || one.name.toLowerCase() !== 'var') return
    const [name, more] = one.children.toArray()
    if (name?.type === 'Identifier' && more === undefined) found.push(name.name)
  })
  return found
}

/** Returns the first value of each variable that is set once for all, or in several ways of the same kind. */
function variableValues(all: readonly Found[]): Map<string, string> {
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

/** Returns the fault of a declaration that is valid with any variable, and is not with the values of those that it has. */
function kindFault(
  node: Declaration,
  values: ReadonlyMap<string, string>,
): Pick<StyleFault, 'message' | 'actual' | 'expected'>[] {
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
      message: `“${property}: ${written}” has a variable of another kind: its value is ${value}.`,
      actual: `${property}: ${written}`,
      expected: null,
    },
  ]
}

/** Longer values are not looked at, in characters. */
const LONGEST_VALUE = 2_000

/** CSS Color Module Level 4 §5.2: three, four, six or eight digits. */
const HEX_COLOUR = /^#([\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})$/i

/** The features of Media Queries Level 5, with the discouraged ones that browsers still read. */
const FEATURES = new Set(
  `any-hover any-pointer aspect-ratio color color-gamut color-index device-aspect-ratio device-height device-width
  display-mode dynamic-range forced-colors grid height horizontal-viewport-segments hover inverted-colors monochrome
  nav-controls orientation overflow-block overflow-inline pointer prefers-color-scheme prefers-contrast
  prefers-reduced-data prefers-reduced-motion prefers-reduced-transparency resolution scan scripting update
  vertical-viewport-segments video-color-gamut video-dynamic-range width block-size inline-size`.split(/\s+/),
)

/** Finds features of media queries that are similar to known ones. The rules in such a query never apply. */
export function unknownFeatures(assets: Assets): StyleFault[] {
  const found: StyleFault[] = []
  for (const [asset, text] of assets) {
    if (!asset.endsWith('.css')) continue
    walk(parse(text, { positions: true }), function (node: CssNode) {
      if (node.type !== 'Feature' && node.type !== 'FeatureRange') return
      const name = node.type === 'Feature' ? node.name.toLowerCase() : ''
      const plain = name.replace(/^(min|max)-/, '')
      if (name === '' || FEATURES.has(plain) || plain.startsWith('-')) return
      const near = [...FEATURES].find((one) => distance(one, plain) <= CHANGES)
      if (near === undefined) return
      found.push({
        asset,
        line: node.loc?.start.line ?? 1,
        message: `“${name}” is not a feature of media queries, so the rules in it never apply.`,
        actual: name,
        expected: name.slice(0, name.length - plain.length) + near,
      })
    })
  }
  return found
}

/** Sizes below this cannot be read, in pixels. */
const SMALLEST = 9
/** A size in a declaration of `font-size` or `font`. */
const SIZE = /(?:^|\s)(\d*\.?\d+)(px|pt|rem)(?=$|[\s/])/
const PIXELS: Readonly<Record<string, number>> = { px: 1, pt: 4 / 3, rem: 16 }
/** Elements without which a page has no content. */
const CONTENT = /^(html|body|main|article|h1|p)$/i

/**
 * Finds text that is too small, and content that is hidden other than in print.
 * @param around the classes of elements with the content of pages
 */
export function hiddenText(assets: Assets, around: ReadonlySet<string> = new Set()): StyleFault[] {
  const isContent = (selector: string) => CONTENT.test(selector) || around.has(selector.replace(/^\./, ''))
  return [...declarations(assets)].flatMap(({ asset, node, rule, isForPrint, isAlways }) => {
    if (isForPrint || !rule) return []
    const property = node.property.toLowerCase()
    const value = generate(node.value).trim()
    const selector = generate(rule.prelude)
    const at = { asset, line: node.loc?.start.line ?? 1 }
    const [, size = '', unit = ''] = /^font(-size)?$/.test(property) ? (SIZE.exec(value) ?? []) : []
    const pixels = Number(size) * (PIXELS[unit] ?? NaN)
    // With no size at all, the text is replaced by an image.
    if (pixels > 0 && pixels < SMALLEST)
      return [
        {
          ...at,
          message: `“${selector}” has text of ${size}${unit}.`,
          actual: `${property}: ${value}`,
          expected: `at least ${SMALLEST}px`,
        },
      ]
    const isHidden =
      (property === 'display' && value === 'none') ||
      (property === 'visibility' && value === 'hidden') ||
      (property === 'opacity' && /^0(\.0+)?%?$/.test(value) && !isAnimated(rule))
    const hidden = isHidden
      ? selector
          .split(',')
          .map((one) => one.trim())
          .find((one) => CONTENT.test(one) || (isAlways && isContent(one)))
      : undefined
    return hidden === undefined
      ? []
      : [
          {
            ...at,
            message: `“${hidden}” is not shown.`,
            actual: `${property}: ${value}`,
            expected: 'content that is shown',
          },
        ]
  })
}

/** Whether a rule fades its elements in. */
const isAnimated = (rule: CssRule): boolean => /\b(animation|transition)\b/.test(generate(rule.block))

const NO_OUTLINE = /^(none|0|0px)( !important)?$/
/** Properties that can show the focus instead of an outline. */
const SHOWS_FOCUS = /^(outline(-.*)?|box-shadow|border(-.*)?|background(-.*)?|text-decoration(-.*)?|filter)$/

/** Finds outlines that are removed where nothing else shows the focus. */
export function hiddenFocus(assets: Assets): StyleFault[] {
  const all = [...declarations(assets)].flatMap((one) => {
    const selector = one.rule ? generate(one.rule.prelude) : ''
    return [{ ...one, selector, value: generate(one.node.value), property: one.node.property.toLowerCase() }]
  })
  const removed = all.filter(
    ({ property, value, selector }) =>
      property === 'outline' && NO_OUTLINE.test(value) && !selector.includes(':not(:focus-visible)'),
  )
  const shown = all.filter(
    ({ property, value, selector }) =>
      /:focus(-visible|-within)?(?!-)/.test(selector.replace(/:not\([^)]*\)/g, '')) &&
      SHOWS_FOCUS.test(property) &&
      !/-(offset|radius)$/.test(property) &&
      !(property === 'outline' && NO_OUTLINE.test(value)),
  )
  const subjects = new Set(shown.flatMap((one) => subjectsOf(one.selector)))
  const hidden = removed.filter(
    ({ selector }) => !subjects.has('*') && subjectsOf(selector).some((one) => !subjects.has(one)),
  )
  return hidden.map(({ asset, node, selector, value }) => ({
    asset,
    line: node.loc?.start.line ?? 1,
    message: `“${selector}” removes the outline, and no style shows the focus instead.`,
    actual: `outline: ${value}`,
    expected: 'a visible focus',
  }))
}

/** Returns the last part of each selector without its states, e.g. `a` for `.menu a:focus`; `*` for all elements. */
const subjectsOf = (selector: string): string[] =>
  selector.split(',').map((one) => {
    const [subject = ''] = /[^\s>+~]*$/.exec(one.trim().replace(/::?[a-z-]+(\([^)]*\))?/gi, '')) ?? []
    return subject === '' ? '*' : subject
  })
