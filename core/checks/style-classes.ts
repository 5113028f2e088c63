/** Finds names in stylesheets that nothing on the blog has, and classes of pages that no stylesheet knows (css-tree). */
import { parse, walk, type CssNode } from 'css-tree'
import { distance } from 'fastest-levenshtein'
import { CODE_CLASS } from '../content/html/highlight.ts'
import { closestName } from '../shapes/suggest-name.ts'
import type { Assets, StyleFault } from './style-faults.ts'

/** Shorter names are similar by chance. */
const SHORTEST_CLASS = 3

/** With more classes that nothing has, and a larger share of them, a stylesheet is that of a library. */
const MOST_UNUSED = 12
const SHARE_UNUSED = 0.3

/** What the blog has apart from its stylesheets. */
export interface Markup {
  /** The classes, ids and names of the elements of pages. */
  classes: ReadonlySet<string>
  ids: ReadonlySet<string>
  elements: ReadonlySet<string>
  /** Whether a template, a script or a text gives a class, on pages or in states that were not visited, too. */
  isGiven: (name: string) => boolean
}

interface Place {
  asset: string
  line: number
}

/** Returns the classes that stylesheets name, with the first place of each. */
function namedClasses(assets: Assets): Map<string, Place> {
  const named = new Map<string, Place>()
  for (const [asset, text] of assets)
    if (asset.endsWith('.css'))
      walk(parse(text, { positions: true }), function (node: CssNode) {
        if (node.type === 'ClassSelector' && !named.has(node.name))
          named.set(node.name, { asset, line: node.loc?.start.line ?? 1 })
      })
  return named
}

/** Whether a class is a name that can be misspelt, and not one of many, as “depth-2”. */
const isName = (one: string) => one.length >= SHORTEST_CLASS && !/\d/.test(one) && !one.startsWith(CODE_CLASS)

/** Finds classes in stylesheets that nothing has and that are similar to one that pages have. */
export function misspeltClasses(assets: Assets, { classes, isGiven }: Markup): StyleFault[] {
  const named = namedClasses(assets)
  const unstyled = [...classes].filter((one) => isName(one) && !named.has(one))
  const unused = [...named].filter(([name]) => isName(name) && !classes.has(name) && !isGiven(name))
  if (unused.length > MOST_UNUSED && unused.length > named.size * SHARE_UNUSED) return []
  return unused.flatMap(([name, place]) => {
    const near =
      [...classes].find((one) => isName(one) && (isSwap(name, one) || isOneMore(name, one))) ??
      // A class that is neither here nor there: it was renamed in one of the two.
      unstyled.find((one) => distance(name, one) === 1) ??
      closestName(name, unstyled)
    return near === undefined
      ? []
      : [
          {
            ...place,
            message: `No element has the class “${name}”.`,
            actual: `.${name}`,
            expected: `.${near}`,
          },
        ]
  })
}

/** Finds classes of pages that no stylesheet and no script knows, and that are similar to one with styles. */
export function misspeltUses(assets: Assets, { classes }: Markup): { name: string; meant: string }[] {
  const named = namedClasses(assets)
  const scripts = [...assets].flatMap(([name, text]) => (name.endsWith('.js') ? [text] : []))
  return [...classes].flatMap((name) => {
    if (!isName(name) || named.has(name) || scripts.some((one) => one.includes(name))) return []
    const meant = [...named.keys()].find((one) => isName(one) && (isSwap(name, one) || isOneMore(name, one)))
    return meant === undefined ? [] : [{ name, meant }]
  })
}

/** Whether one of two names has a letter more, and is not the plural. */
const isOneMore = (one: string, other: string) =>
  distance(one, other) === 1 && one.length !== other.length && !isPlural(one, other)

const isPlural = (one: string, other: string) => one === `${other}s` || other === `${one}s`

/** Whether two letters have changed places, or one is doubled. Two classes that are both meant rarely differ by that alone. */
function isSwap(one: string, other: string): boolean {
  const at = [...one].findIndex((letter, index) => letter !== other[index])
  const [a = '', b = ''] = [one[at], one[at + 1]]
  return (
    one.slice(0, at) + b + a + one.slice(at + 2) === other ||
    (one !== other && one.replace(/(.)\1/g, '$1') === other.replace(/(.)\1/g, '$1'))
  )
}

/** Finds selectors that name a class or an id without its sign or with the wrong one: `pager` or `#pager` for `.pager`. */
export function signlessSelectors(
  assets: Assets,
  { classes, ids, elements }: Pick<Markup, 'classes' | 'ids' | 'elements'>,
): StyleFault[] {
  const found: StyleFault[] = []
  const scripts = [...assets].flatMap(([name, text]) => (name.endsWith('.js') ? [text] : []))
  for (const [asset, text] of assets) {
    if (!asset.endsWith('.css')) continue
    walk(parse(text, { positions: true }), function (node: CssNode) {
      if (node.type === 'IdSelector' || node.type === 'ClassSelector') {
        const [own, others, right] =
          node.type === 'IdSelector' ? ([ids, classes, '.'] as const) : ([classes, ids, '#'] as const)
        // A script may set the class.
        const isScripted = scripts.some((one) => one.includes(node.name))
        if (own.has(node.name) || !others.has(node.name) || isScripted) return
        const [kind, other] = right === '.' ? ['id', 'class'] : ['class', 'id']
        found.push({
          asset,
          line: node.loc?.start.line ?? 1,
          message: `No element has the ${kind} “${node.name}”, which is a ${other}.`.replace('a id', 'an id'),
          actual: (right === '.' ? '#' : '.') + node.name,
          expected: right + node.name,
        })
        return
      }
      if (node.type !== 'TypeSelector' || !this.selector) return
      const name = node.name.toLowerCase()
      const sign = classes.has(node.name) ? '.' : ids.has(node.name) ? '#' : undefined
      if (sign === undefined || elements.has(name) || ELEMENTS.has(name)) return
      found.push({
        asset,
        line: node.loc?.start.line ?? 1,
        message: `“${node.name}” is not an element.`,
        actual: node.name,
        expected: sign + node.name,
      })
    })
  }
  return found
}

/** The elements of HTML (https://html.spec.whatwg.org/multipage/indices.html#elements-3), and common ones of SVG and MathML. */
const ELEMENTS = new Set(
  `a abbr address area article aside audio b base bdi bdo blockquote body br button canvas caption cite code col colgroup
  data datalist dd del details dfn dialog div dl dt em embed fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 head
  header hgroup hr html i iframe img input ins kbd label legend li link main map mark menu meta meter nav noscript object ol
  optgroup option output p picture pre progress q rp rt ruby s samp script search section select selectedcontent slot small
  source span strong style sub summary sup table tbody td template textarea tfoot th thead time title tr track u ul var video
  wbr math mi mn mo mrow svg circle defs ellipse g image line path polygon polyline rect stop symbol text tspan use`.split(
    /\s+/,
  ),
)

/** Returns the words in the classes and ids that a template or a text gives, on pages or in states that were not visited, too. */
export const namesGiven = (template: string): Set<string> =>
  new Set(
    [...template.matchAll(/\b(?:class|id)\s*=\s*([^>]*)/g)].flatMap(
      ([, value = '']) => value.match(/-?[_a-zA-Z][\w-]*/g) ?? [],
    ),
  )
