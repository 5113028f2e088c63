/** Finds declarations in stylesheets that browsers ignore, and styles that hide the focus (css-tree). */
import { distance } from 'fastest-levenshtein'
import { generate, lexer, parse, walk, type CssNode, type Declaration, type Rule as CssRule } from 'css-tree'
import {
  CHANGES,
  counterFault,
  kindFault,
  nearKeyword,
  PROPERTIES,
  variableValues,
  type ValueFault,
} from './style-values.ts'

export interface StyleFault extends ValueFault {
  asset: string
  line: number
}

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

function faultOf(node: Declaration, counters: ReadonlySet<string>): ValueFault | undefined {
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
  if (!/^[a-z-]+$/i.test(value)) return undefined
  if (keywords === undefined) return nearKeyword(property, value)
  const [near] = keywords.filter(
    (one) => distance(one, value) <= CHANGES || one.startsWith(value) || one.endsWith(value),
  )
  return {
    message: `“${value}” is not a value of “${property}”.`,
    actual: value,
    expected: near ?? keywords.join(', '),
  }
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
