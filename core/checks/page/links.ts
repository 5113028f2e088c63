/** Reads links, each with where it is and the number beside it. */
import type { PartReader } from './part.ts'
import type { PageLink, ReadPage } from './shape.ts'

/** Elements that a number after a link may be in. */
const AROUND_COUNTS = new Set(['span', 'small', 'sup', 'b', 'i', 'em', 'data', 'bdi'])
/** A number that is all that follows a link. */
const COUNT = /^\W? ?(\d[\d.,]*)(?: ?posts?)? ?\W?$/i
/** A number at the end of a link's text. */
const COUNT_IN_LINK = /\S ?\((\d[\d.,]*)\)$/
/** Longer texts are no number beside a link. */
const LONGEST_COUNT = 30
/** Longer links are not looked at. */
const LONGEST_LINK = 200

/** Returns the number in a link, or in the text after it; null without one. */
function countOf(link: string, after: string): number | null {
  const [own, other] = [link, after].map((one) => one.replace(/\s+/g, ' ').trim())
  const [, digits] =
    (other !== undefined && other.length <= LONGEST_COUNT ? COUNT.exec(other) : null) ??
    (own !== undefined && own.length <= LONGEST_LINK ? COUNT_IN_LINK.exec(own) : null) ??
    []
  return digits === undefined ? null : Number(digits.replace(/[.,]/g, ''))
}

/** Elements with links of their own kind. */
const APART = ['nav', 'li', 'form', 'h1', 'aside', 'header', 'footer']

export function readLinks(): PartReader<Pick<ReadPage, 'links'>> {
  const links: PageLink[] = []
  /** The navigations around. */
  const navigations: string[] = []
  let unnamed = 0
  let link: PageLink | undefined
  /** The link whose number may follow, and the depth of the element that it is in. */
  let counted: { link: PageLink; depth: number; after: string } | undefined
  const endCount = () => {
    if (!counted) return
    const { link: own, after } = counted
    counted = undefined
    own.count = countOf(own.text, after)
  }
  return {
    part: { links },
    open({ name, attributes }, around) {
      if (!AROUND_COUNTS.has(name)) endCount()
      const { href, src, id, 'aria-label': label } = attributes
      if (name === 'nav') navigations.push(label ?? attributes['class'] ?? id ?? `nav ${++unnamed}`)
      if (name === 'a' && href !== undefined)
        links.push(
          (link = {
            href,
            rel: attributes['rel'] ?? '',
            text: '',
            label: label ?? attributes['title'] ?? '',
            isHidden: attributes['aria-hidden'] === 'true',
            current: attributes['aria-current'] ?? '',
            navigation: navigations.at(-1) ?? null,
            isInMain: around.has('main') && !APART.some((one) => around.has(one)),
            image: '',
            count: null,
          }),
        )
      if (!link || link.image !== '') return
      if (name === 'img') link.image = src ?? ''
      // Whether a drawing in the page has a name is a question for a browser.
      if (name === 'svg') link.image = name
    },
    text(text) {
      if (link) link.text += text
      else if (counted) counted.after += text
    },
    close(name, { depth }) {
      if (name === 'nav') navigations.pop()
      if (counted && depth < counted.depth) endCount()
      if (name !== 'a' || !link) return
      counted = { link, depth, after: '' }
      link = undefined
    },
    end: endCount,
  }
}
