/** The design tokens of a stylesheet: the custom properties of `:root`, in the light and the dark colour scheme. */
import { colord, extend } from 'colord'
import a11y from 'colord/plugins/a11y'
import names from 'colord/plugins/names'
import { generate, parse, walk, type CssNode } from 'css-tree'

extend([a11y, names])

export type Scheme = 'light' | 'dark'
export const SCHEMES: readonly Scheme[] = ['light', 'dark']

export interface TokenValue {
  value: string
  /** Offsets of the value in the stylesheet. */
  from: number
  to: number
  /** 1-based. */
  line: number
  /** The colour as `#rrggbb`; null if it is another value, or a colour that one can see through. */
  colour: string | null
}

export interface Token {
  /** With its hyphens: `--ink`. */
  name: string
  /** A token without a value of its own in the dark scheme has that of the light one. */
  light: TokenValue | null
  dark: TokenValue | null
}

export interface Contrast {
  /** The tokens of the text and of the ground. */
  text: string
  ground: string
  /** The ratio in each scheme (WCAG 2.2, “contrast ratio”), rounded down to two places; null if it is not known. */
  light: number | null
  dark: number | null
}

/** The least contrast of text, and of large text, for level AA (WCAG 2.2, 1.4.3). */
export const ENOUGH = 4.5
export const ENOUGH_FOR_LARGE = 3

/** Returns the tokens of a stylesheet, in the order in which they are declared first. */
export function tokensOf(css: string): Token[] {
  const tokens = new Map<string, Token>()
  walkDeclarations(css, ({ property, value, scheme, isRoot }) => {
    if (!isRoot || scheme === null || !property.startsWith('--') || !value.loc) return
    const { start, end } = value.loc
    const raw = css.slice(start.offset, end.offset)
    const text = raw.trim()
    const from = start.offset + raw.indexOf(text)
    const token = tokens.get(property) ?? { name: property, light: null, dark: null }
    tokens.set(property, token)
    const line = css.slice(0, from).split('\n').length
    // The last declaration counts.
    token[scheme] = { value: text, from, to: from + text.length, line, colour: opaque(text) }
  })
  return [...tokens.values()]
}

/**
 * Returns the stylesheet with another value of a token.
 * @returns undefined if the token has no value of its own in the scheme, or the value is empty or would end its declaration
 */
export function changeToken(css: string, name: string, scheme: Scheme, value: string): string | undefined {
  const own = tokensOf(css).find((one) => one.name === name)?.[scheme]
  if (!own || value.trim() === '') return undefined
  const changed = css.slice(0, own.from) + value + css.slice(own.to)
  const after = tokensOf(changed).find((one) => one.name === name)?.[scheme]
  return after?.value === value.trim() && tokensOf(changed).length === tokensOf(css).length
    ? changed
    : undefined
}

/**
 * Returns the contrast of texts on what they can stand on. A rule that sets both a colour and a background is a pair of its
 * own; a colour that is set alone can stand on the background of the page, and on every background that is set alone and is
 * not itself the colour of a text.
 */
export function contrastsOf(css: string): Contrast[] {
  const tokens = tokensOf(css)
  const colourOf = (name: string, scheme: Scheme): string | null => {
    const token = tokens.find((one) => one.name === name)
    return ((scheme === 'dark' ? token?.dark : undefined) ?? token?.light)?.colour ?? null
  }
  return pairsIn(css).flatMap(([text, ground]) => {
    const ratio = (scheme: Scheme) => {
      const [one, other] = [colourOf(text, scheme), colourOf(ground, scheme)]
      return one === null || other === null ? null : colord(one).contrast(other)
    }
    const [light, dark] = [ratio('light'), ratio('dark')]
    return light === null && dark === null ? [] : [{ text, ground, light, dark }]
  })
}

/** Returns the lowest of the contrasts; undefined if there are none. */
export function lowestContrast(css: string): number | undefined {
  const ratios = contrastsOf(css).flatMap(({ light, dark }) => [light ?? [], dark ?? []].flat())
  return ratios.length === 0 ? undefined : Math.min(...ratios)
}

/** Returns the pairs of tokens of a text and of what it can stand on. */
function pairsIn(css: string): [text: string, ground: string][] {
  const rules = new Map<string, { isPage: boolean; texts: string[]; grounds: string[] }>()
  walkDeclarations(css, ({ property, value, selector, place }) => {
    const isText = property === 'color'
    if (!isText && !/^background(-color)?$/.test(property)) return
    const named = [...generate(value).matchAll(/var\((--[\w-]+)/g)].map((found) => found[1] ?? '')
    const isPage = selector.split(',').some((one) => /^(html|body|:root)$/.test(one))
    const rule = rules.get(place) ?? { isPage, texts: [], grounds: [] }
    rules.set(place, rule)
    rule[isText ? 'texts' : 'grounds'].push(...named)
  })
  const pairs = new Map<string, [string, string]>()
  const add = (texts: readonly string[], grounds: readonly string[]) => {
    for (const ground of grounds)
      for (const text of texts) if (text !== ground) pairs.set(`${text} ${ground}`, [text, ground])
  }
  const all = [...rules.values()]
  const texts = all.flatMap((one) => (one.isPage || one.grounds.length === 0 ? one.texts : []))
  // An accent that marks a line or a dot is no ground for other texts.
  const accents = new Set(texts)
  add(
    texts,
    all.flatMap(({ isPage, texts: own, grounds }) =>
      isPage ? grounds : own.length === 0 ? grounds.filter((ground) => !accents.has(ground)) : [],
    ),
  )
  for (const one of all) add(one.texts, one.grounds)
  return [...pairs.values()]
}

interface Declared {
  property: string
  value: CssNode
  selector: string
  /** The same for declarations of one rule. */
  place: string
  /** null inside other conditions, such as a width or print. */
  scheme: Scheme | null
  isRoot: boolean
}

function walkDeclarations(css: string, visit: (declared: Declared) => void): void {
  // The parser goes on after what it does not understand, as browsers do.
  const tree = parse(css, { positions: true, onParseError: () => undefined })
  walk(tree, {
    visit: 'Declaration',
    enter(node) {
      const { rule, atrule } = this
      const selector = rule?.prelude ? generate(rule.prelude) : ''
      visit({
        property: node.property,
        value: node.value,
        selector,
        place: String(rule?.loc?.start.offset),
        scheme: atrule === null ? 'light' : schemeOf(atrule.name, atrule.prelude),
        isRoot: selector.split(',').some((one) => one === ':root' || one === 'html'),
      })
    },
  })
}

function schemeOf(name: string, prelude: CssNode | null): Scheme | null {
  const [, scheme] = /^\(prefers-color-scheme:(light|dark)\)$/.exec(prelude ? generate(prelude) : '') ?? []
  return name === 'media' && (scheme === 'light' || scheme === 'dark') ? scheme : null
}

/** Returns `#rrggbb` for a colour that hides what is behind it. */
function opaque(value: string): string | null {
  const colour = colord(value)
  return colour.isValid() && colour.alpha() === 1 ? colour.toHex() : null
}
